import type { Schemas } from '../../api/client'
import { counted } from '../../domain/counted'

type Shown = Schemas['Rail']
type Block = Schemas['RailBlock']

const LOOKS: Record<Block['what'], string> = {
  review: 'bg-slate',
  preparation: 'bg-slate/45',
  buffer: 'bg-second/35',
  lead: 'bg-ink/70',
}

/**
 * What is left until the day on site, from today at the left end to that day at the right: empty space is time to
 * spare, what sticks out over today is brick.
 */
export function Rail({ rail, float }: { rail: Shown; float: number }) {
  const first = Math.min(0, rail.gap)
  const whole = Math.max(1, rail.span - first)
  const at = (days: number) => `${(100 * (days - first)) / whole}%`
  return (
    <span
      role="img"
      aria-label={railWords(rail, float)}
      title={railWords(rail, float)}
      className="relative block h-[18px] w-full"
    >
      <span className="absolute inset-x-0 bottom-0 h-px bg-line" />
      {rail.blocks.map((block, place) => (
        <BlockShown key={place} block={block} at={at} whole={whole} />
      ))}
      {first < 0 && <span className="absolute inset-y-0 w-px bg-ink" style={{ left: at(0) }} />}
    </span>
  )
}

/** How far from the left today is, in hundredths. */
export function todayAt(rail: Shown): number {
  const first = Math.min(0, rail.gap)
  return (100 * -first) / Math.max(1, rail.span - first)
}

interface BlockProps {
  block: Block
  at: (days: number) => string
  whole: number
}

/** The part that should have begun by now, and the rest of it. */
function BlockShown({ block, at, whole }: BlockProps) {
  const over = Math.min(block.days, Math.max(0, -block.start))
  const wide = (days: number) => `calc(${(100 * days) / whole}% - 1px)`
  const rest = block.days - over
  return (
    <>
      {over > 0 && (
        <span
          className="absolute top-[5px] h-2 bg-brick"
          style={{ left: at(block.start), width: wide(over) }}
        />
      )}
      {rest > 0 && (
        <span
          className={`absolute top-[5px] h-2 ${LOOKS[block.what]}`}
          style={{ left: at(block.start + over), width: wide(rest) }}
        />
      )}
    </>
  )
}

function railWords(rail: Shown, float: number): string {
  const spare =
    float < 0
      ? `${counted(-float, 'working day')} late`
      : float === 0
        ? 'the last day'
        : `${counted(float, 'working day')} to spare`
  const blocks = rail.blocks.map((each) => `${each.what} ${each.days}`).join(', ')
  const until =
    rail.span < 0 ? 'the day on site is over' : `${counted(rail.span, 'working day')} to the day on site`
  return `${spare}; ${until}: ${blocks || 'nothing left to do'}`
}

/** What the colours of the rails mean. */
export function RailLegend() {
  return (
    <span aria-hidden className="flex flex-wrap items-center gap-x-3 text-note text-second max-md:hidden">
      {(['review', 'preparation', 'buffer', 'lead'] as const).map((what) => (
        <span key={what} className="flex items-center gap-1">
          <span className={`inline-block h-2 w-3 ${LOOKS[what]}`} /> {what}
        </span>
      ))}
      <span className="flex items-center gap-1">
        <span className="inline-block h-2 w-3 bg-brick" /> should have begun
      </span>
    </span>
  )
}

/** How many working days there are to spare. */
export function Float({
  line,
}: {
  line: { float_days: number | null; unknown: string; rail: Shown | null }
}) {
  if (line.float_days === null)
    return (
      <span className="text-second" title={line.unknown}>
        {line.unknown ? 'not known' : ''}
      </span>
    )
  if (line.float_days < 0)
    return <span className="font-semibold whitespace-nowrap text-brick">{-line.float_days} d late</span>
  if (line.float_days === 0) return <span className="font-semibold text-ochre">last day</span>
  return <span className="whitespace-nowrap">{line.float_days} d</span>
}
