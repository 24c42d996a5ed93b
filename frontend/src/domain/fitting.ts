/**
 * Which of several things in a row are shown where there is room for so many pixels: those from the left that fit, and
 * always the one at `here` (-1: none). Where not all fit, `more` pixels are kept for what leads to the others.
 */
export function fitting(widths: readonly number[], here: number, room: number, more: number): number[] {
  const all = widths.map((_, place) => place)
  if (widths.reduce((sum, each) => sum + each, 0) <= room) return all
  let left = room - more - (widths[here] ?? 0)
  const shown: number[] = []
  for (const place of all) {
    if (place === here) continue
    left -= widths[place] ?? 0
    if (left < 0) break
    shown.push(place)
  }
  return all.filter((place) => place === here || shown.includes(place))
}
