import { useEffect, useRef, useState } from 'react'

import type { Change } from './live'
import { hearPresence, type Present } from './presence'

const AGAIN_MS = 2000

/** The parts of a stream of server-sent events, as far as they are whole, and what is left. */
export function partsOf(text: string): [readonly [string, string][], string] {
  const blocks = text.split('\n\n')
  const rest = blocks.pop() ?? ''
  const parts = blocks.flatMap((block): [string, string][] => {
    const lines = block.split('\n')
    const of = (name: string) =>
      lines.find((line) => line.startsWith(`${name}: `))?.slice(name.length + 2) ?? ''
    return of('event') ? [[of('event'), of('data')]] : []
  })
  return [parts, rest]
}

async function read(answer: Response, hear: (event: string, data: string) => void) {
  const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader()
  let left = ''
  while (reader) {
    const { value, done } = await reader.read()
    if (done) return
    const [parts, rest] = partsOf(left + value)
    left = rest
    for (const [event, data] of parts) hear(event, data)
  }
}

/**
 * The live channel for a guest, whose secret goes along in a header, which the browser's own event source cannot send.
 * Returns whether the line is there; what was missed is told by `missed`.
 */
export function useGuestLive(
  address: string,
  guest: string,
  heard: { change: (change: Change) => void; missed: () => void },
): boolean {
  const [live, setLive] = useState(false)
  const newest = useRef(heard)
  useEffect(() => {
    newest.current = heard
  })
  useEffect(() => {
    if (!address) return
    const end = new AbortController()
    const hear = (event: string, data: string) => {
      if (event === 'start' || event === 'missed') {
        setLive(true)
        newest.current.missed()
      } else if (event === 'change') newest.current.change(JSON.parse(data) as Change)
      else if (event === 'here') hearPresence(JSON.parse(data) as Record<string, Present[]>)
    }
    const listen = async () => {
      while (!end.signal.aborted) {
        try {
          const headers = { 'X-Nod-Guest': guest }
          const answer = await fetch(address, { headers, credentials: 'include', signal: end.signal })
          if (answer.ok) {
            await read(answer, hear)
            // Nod has ended it: something is otherwise now, say the session has closed.
            newest.current.missed()
          }
        } catch {
          // The line broke, or was ended: it is tried again, or was meant.
        }
        setLive(false)
        await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
      }
    }
    void listen()
    return () => end.abort()
  }, [address, guest])
  return live
}
