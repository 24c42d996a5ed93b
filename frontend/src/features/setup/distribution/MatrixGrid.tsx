import { usePartKeys, type Bound } from '../../../ui/keys'
import {
  lineWords,
  shareOf,
  SHARE_WORDS,
  type Holder,
  type Matrix,
  type MatrixLine,
  type Share,
} from './useDistribution'

const LOOKS: Record<Share, string> = {
  '': 'text-second',
  act: 'bg-plum-tint font-semibold text-plum',
  know: 'bg-slate-tint text-ink',
}
const SIGNS: Record<Share, string> = { '': '·', act: 'act', know: 'know' }
const NEXT: Record<Share, Share> = { '': 'act', act: 'know', know: '' }

interface Props {
  matrix: Matrix
  lines: readonly MatrixLine[]
  /** The line that is being edited. */
  at: number
  onAt: (at: number) => void
  /** Undefined for who only reads. */
  onShare: ((at: number, holder: Holder, share: Share) => void) | undefined
}

function useMatrixKeys(holders: readonly Holder[], onShare: Props['onShare']) {
  const set = (share: Share) => () => {
    const [row = 0, column = 0] = placeOf(document.activeElement) ?? []
    const holder = holders[column]
    if (holder) onShare?.(row, holder, share)
  }
  const acts: [string, Bound][] = [
    ['a', ['to act', set('act')]],
    ['k', ['to know', set('know')]],
    ['Delete', ['nothing', set('')]],
    ...Object.entries(STEPS).map(([key, step]): [string, Bound] => [
      key,
      ['move in the matrix', () => move(step)],
    ]),
  ]
  return usePartKeys('the matrix', Object.fromEntries(acts), 'input, select, a')
}

/** Classes of documents down, companies and roles across; a press, or A, K and Delete, set a cell. */
export function MatrixGrid({ matrix, lines, at, onAt, onShare }: Props) {
  const keys = useMatrixKeys(matrix.holders, onShare)
  return (
    <div data-wide className="relative min-h-0 flex-1 overflow-auto">
      <table
        role="grid"
        tabIndex={-1}
        aria-label="Distribution matrix"
        className="border-collapse text-list"
        onKeyDown={keys}
      >
        <thead>
          <tr>
            <th className="sticky top-0 left-0 z-30 min-w-[270px] border-r border-b border-second/40 bg-surface px-3 pb-1 text-left align-bottom text-note font-semibold text-second max-md:min-w-[150px]">
              Documents
            </th>
            {matrix.holders.map((holder) => (
              <Head
                key={`${holder.kind} ${holder.id}`}
                holder={holder}
                first={holder === matrix.holders.find((each) => each.kind === 'role')}
              />
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line, row) => (
            <tr key={row} className="border-b border-line/60">
              <LineHead words={lineWords(line, matrix)} here={row === at} onOpen={() => onAt(row)} />
              {matrix.holders.map((holder, column) => (
                <Cell
                  key={`${holder.kind} ${holder.id}`}
                  place={`${row} ${column}`}
                  words={`${headWords(holder)}; ${lineWords(line, matrix)}`}
                  share={shareOf(line, holder)}
                  onShare={onShare && ((share) => onShare(row, holder, share))}
                />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Head({ holder, first }: { holder: Holder; first: boolean }) {
  return (
    <th
      title={headWords(holder)}
      className={`sticky top-0 z-20 h-[170px] w-[48px] min-w-[48px] border-b border-second/40 bg-surface pb-1.5 align-bottom font-normal ${first ? 'border-l border-l-second/40' : ''}`}
    >
      <span className="mx-auto block max-h-[160px] rotate-180 truncate text-left text-note leading-[15px] [writing-mode:vertical-rl]">
        <span className="font-semibold">{holder.name}</span>
        <br />
        <span className="text-fine text-second">
          {holder.code || 'role'}, {holder.people}
        </span>
      </span>
    </th>
  )
}

function LineHead({ words, here, onOpen }: { words: string; here: boolean; onOpen: () => void }) {
  return (
    <th
      scope="row"
      className={`sticky left-0 z-10 border-r border-second/40 p-0 text-left font-normal ${here ? 'bg-plum-tint' : 'bg-surface'}`}
    >
      <button
        type="button"
        aria-current={here}
        onClick={onOpen}
        className="block min-h-8 w-full px-3 py-1 text-left hover:text-plum"
      >
        {words}
      </button>
    </th>
  )
}

const headWords = (holder: Holder) =>
  holder.kind === 'role' ? `Role ${holder.name}` : `${holder.code} ${holder.name}`

interface CellProps {
  place: string
  words: string
  share: Share
  onShare: ((share: Share) => void) | undefined
}

function Cell({ place, words, share, onShare }: CellProps) {
  const said = `${words}: ${SHARE_WORDS[share]}`
  if (!onShare)
    return (
      <td title={said} className={`h-8 text-center text-note ${LOOKS[share]}`}>
        {SIGNS[share]}
      </td>
    )
  return (
    <td className="relative p-0">
      <button
        type="button"
        data-cell={place}
        aria-label={said}
        title={said}
        onClick={() => onShare(NEXT[share])}
        className={`absolute inset-0 text-center text-note hover:outline hover:-outline-offset-1 hover:outline-plum ${LOOKS[share]}`}
      >
        {SIGNS[share]}
      </button>
    </td>
  )
}

const STEPS: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}

const placeOf = (element: Element | null) =>
  (element as HTMLElement | null)?.dataset['cell']?.split(' ').map(Number)

function move([down, right]: [number, number]) {
  const [row = 0, column = 0] = placeOf(document.activeElement) ?? []
  document.querySelector<HTMLElement>(`[data-cell='${row + down} ${column + right}']`)?.focus()
}
