/** What is done to a column of cells at once: filled down, pasted, found and replaced. Pure: rows in, new values out. */

export interface Cell {
  id: string
  value: string
}

/** The lines of what was copied from a spreadsheet; of several columns the first, without the last empty line. */
export function pastedLines(text: string): string[] {
  const lines = text.replace(/\r\n?/g, '\n').split('\n')
  if (lines.length > 1 && lines.at(-1) === '') lines.pop()
  return lines.map((line) => unquoted(line.split('\t')[0] ?? ''))
}

function unquoted(cell: string): string {
  const quoted = /^"(.*)"$/.exec(cell.trim())
  return (quoted?.[1] ?? cell).replaceAll('""', '"').trim()
}

/** Pasted lines laid over the column from `from` on; what is left over is not pasted. A single line fills `from` only. */
export function pasteDown(cells: readonly Cell[], from: number, lines: readonly string[]): Cell[] {
  return changed(
    cells,
    lines.flatMap((value, place) => {
      const cell = cells[from + place]
      return cell ? [{ id: cell.id, value }] : []
    }),
  )
}

/** The first cell's value in all the others. */
export function fillDown(cells: readonly Cell[]): Cell[] {
  const value = cells[0]?.value ?? ''
  return changed(
    cells,
    cells.map(({ id }) => ({ id, value })),
  )
}

/** Every place where `find` stands, to the letter or whatever its capitals; an empty `find` finds nothing. */
export function replaceAll(cells: readonly Cell[], find: string, by: string, exactCapitals: boolean): Cell[] {
  if (!find) return []
  const pattern = new RegExp(find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), exactCapitals ? 'g' : 'gi')
  return changed(
    cells,
    cells.map(({ id, value }) => ({ id, value: value.replace(pattern, () => by) })),
  )
}

function changed(before: readonly Cell[], after: readonly Cell[]): Cell[] {
  const old = new Map(before.map(({ id, value }) => [id, value]))
  return after.filter(({ id, value }) => old.get(id) !== value)
}
