import type { SlipPart } from './listTypes'

/** How high a line is where lists are slips. */
export const SLIP_PX = 58

const AT = ['what', 'beside', 'below'] as const

/** A line of a list on a small screen, in two: what it is and what tells it apart; who has it, since and until when. */
export function Slip<Row>({ row, parts }: { row: Row; parts: readonly SlipPart<Row>[] }) {
  const [what, beside, below] = AT.map((at) => parts.filter((part) => part.at === at))
  return (
    <>
      <div className="flex min-w-0 items-baseline gap-2 px-2">
        {what?.map((part) => (
          <div key={part.key} role="gridcell" className="min-w-0 flex-1 truncate font-medium">
            {part.cell(row)}
          </div>
        ))}
        {beside?.map((part) => (
          <div key={part.key} role="gridcell" className="shrink-0">
            {part.cell(row)}
          </div>
        ))}
      </div>
      <div className="flex min-w-0 items-baseline gap-3 px-2 text-note text-second">
        {below?.map((part) => (
          <div key={part.key} role="gridcell" className="truncate empty:hidden last:ml-auto last:shrink-0">
            {part.cell(row)}
          </div>
        ))}
      </div>
    </>
  )
}
