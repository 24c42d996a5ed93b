import type { Schemas } from '../../../api/client'
import { counted } from '../../../domain/counted'

type Line = Schemas['ReceivedLine']

const LOOKS: Record<string, string> = {
  here: 'text-spruce',
  filed: 'text-spruce',
  other_revision: 'text-ochre',
  other_file: 'text-brick',
  missing: 'text-brick',
}

const FINE = new Set(['here', 'filed'])

/** What the list says against what is here: what is not as it says first, then what is on no list, then the rest. */
export function ReceivedLines({ lines, more }: { lines: readonly Line[]; more: readonly string[] }) {
  const differing = lines.filter((each) => !FINE.has(each.found))
  const fine = lines.filter((each) => FINE.has(each.found))
  return (
    // The scrolling region takes the focus, so that the keyboard can scroll it.
    <div
      role="region"
      aria-label="Their list against what is here"
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
      tabIndex={0}
      className="max-h-[300px] overflow-auto border border-line"
    >
      <table className="w-full text-list">
        <thead className="sticky top-0 bg-paper text-left text-note text-second">
          <tr>
            <th className="px-2 py-1 font-medium">Their list</th>
            <th className="px-2 py-1 font-medium">Revision</th>
            <th className="px-2 py-1 font-medium">With us</th>
          </tr>
        </thead>
        <tbody>
          <Lines lines={differing} />
          {more.map((name, place) => (
            <tr key={`more ${place}`} className="border-t border-line align-top">
              <td className="px-2 py-1 break-all" colSpan={2}>
                {name}
              </td>
              <td className="px-2 py-1 text-ochre">here, and on no list</td>
            </tr>
          ))}
          <Lines lines={fine} />
        </tbody>
      </table>
    </div>
  )
}

function Lines({ lines }: { lines: readonly Line[] }) {
  return lines.map((each, place) => (
    <tr key={place} className="border-t border-line align-top">
      <td className="px-2 py-1">
        <span className="code break-all">{each.number || each.file}</span>
        {each.title && <span className="block text-note text-second">{each.title}</span>}
      </td>
      <td className="code px-2 py-1">{each.revision}</td>
      <td className={`px-2 py-1 ${LOOKS[each.found] ?? ''}`}>
        {each.came_as ? `came as ${each.came_as}` : each.words}
      </td>
    </tr>
  ))
}

/** The same in a line: what is here, and what is not as the list says. */
export function tally(lines: readonly Line[], more: readonly string[]): string {
  const of = (...found: string[]) => lines.filter((each) => found.includes(each.found)).length
  const [missing, other, exchanged] = [of('missing'), of('other_revision'), of('other_file')]
  return [
    `${of('here', 'filed')} of ${lines.length} here`,
    missing && `${missing} missing`,
    other && `${other} in another revision`,
    exchanged && `${counted(exchanged, 'file')} not what was sent`,
    more.length && `${counted(more.length, 'file')} on no list`,
  ]
    .filter(Boolean)
    .join(', ')
}

export function isAsListed(lines: readonly Line[], more: readonly string[]): boolean {
  return !more.length && lines.every((each) => FINE.has(each.found))
}
