import type { Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'

type Count = Schemas['PlannedCount']

interface Chosen {
  company: string
  discipline: string
}

interface Props {
  list: Schemas['PlannedList']
  chosen: Chosen
  onChoose: (next: Chosen) => void
}

/** Received, late and still planned, by company and discipline; a line narrows the list to it. */
export function PlannedCounts({ list, chosen, onChoose }: Props) {
  const { project } = useSeat()
  return (
    <div data-wide className="relative max-h-[230px] overflow-auto border-t border-line">
      <table className="w-full max-w-[860px] text-list">
        <thead className="sticky top-0 bg-paper text-left text-note text-second">
          <tr className="h-7">
            <th className="px-4 font-semibold">Company</th>
            <th className="px-2 font-semibold">Discipline</th>
            <th className="w-[90px] px-2 text-right font-semibold">Received</th>
            <th className="w-[70px] px-2 text-right font-semibold">Late</th>
            <th className="w-[80px] px-2 text-right font-semibold">To come</th>
            <th className="w-[60px] px-2 text-right font-semibold">All</th>
            <th className="w-[230px] px-2 font-semibold">Share received</th>
          </tr>
        </thead>
        <tbody>
          {list.counts.map((count) => {
            const open = chosen.company === count.company && chosen.discipline === count.discipline
            return (
              <tr
                key={`${count.company} ${count.discipline}`}
                className={open ? 'bg-plum-tint' : 'hover:bg-paper'}
              >
                <td className="px-4">
                  <button
                    type="button"
                    aria-pressed={open}
                    className="code min-h-6 min-w-9 text-left text-plum underline"
                    onClick={() =>
                      onChoose(
                        open
                          ? { company: '', discipline: '' }
                          : { company: count.company, discipline: count.discipline },
                      )
                    }
                  >
                    {count.company || 'none'}
                  </button>
                </td>
                <td className="px-2">
                  <span className="code font-bold">{count.discipline}</span>{' '}
                  <span className="text-second">{project.disciplines[count.discipline]}</span>
                </td>
                <Numbers count={count} />
              </tr>
            )
          })}
          <tr className="border-t border-second/40 font-semibold">
            <td className="px-4" colSpan={2}>
              All
            </td>
            <Numbers count={list.total} />
          </tr>
        </tbody>
      </table>
    </div>
  )
}

function Numbers({ count }: { count: Count }) {
  const share = (part: number) => `${count.all ? (100 * part) / count.all : 0}%`
  return (
    <>
      <td className="px-2 text-right tabular-nums">{count.received}</td>
      <td className={`px-2 text-right tabular-nums ${count.late ? 'font-semibold text-brick' : ''}`}>
        {count.late}
      </td>
      <td className="px-2 text-right tabular-nums">{count.planned}</td>
      <td className="px-2 text-right tabular-nums">{count.all}</td>
      <td className="px-2">
        <span className="flex items-center gap-2">
          <span className="flex h-2.5 w-[150px] border border-line" aria-hidden>
            <span className="bg-spruce" style={{ width: share(count.received) }} />
            <span className="bg-brick" style={{ width: share(count.late) }} />
          </span>
          <span className="tabular-nums">{count.percent} %</span>
        </span>
      </td>
    </>
  )
}
