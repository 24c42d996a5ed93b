/** The picture of a sheet that came with its page, before any script had run. */
const look = () => document.getElementById('first-look')

/** Lies in a view of the same place and size until that is as sharp itself. */
export function takeFirstLook(into: HTMLElement) {
  const found = look()
  if (found) into.append(found)
}

export function endFirstLook() {
  look()?.remove()
}
