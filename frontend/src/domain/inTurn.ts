/**
 * Sends one at a time, in the order in which it was asked for; of those asked for while one is under way only the newest
 * goes. What is said twice a second would otherwise overtake itself, and the older word would be the last one heard.
 */
export function inTurn(): (send: () => Promise<unknown>) => void {
  let busy = false
  let next: (() => Promise<unknown>) | undefined
  const go = (send: () => Promise<unknown>) => {
    busy = true
    void send()
      .catch(() => undefined)
      .then(() => {
        busy = false
        const newest = next
        next = undefined
        if (newest) go(newest)
      })
  }
  return (send) => {
    if (busy) next = send
    else go(send)
  }
}
