import { useState } from 'react'

import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { useSet, type Arrival } from './useIntake'

const LEFT: Record<string, { words: string; look: string }> = {
  registered: { words: 'Registered', look: 'text-spruce' },
  already_there: { words: 'Already there', look: 'text-slate' },
  discarded: { words: 'Discarded', look: 'text-second' },
  sent_back: { words: 'Sent back', look: 'text-brick' },
  split: { words: 'Taken apart', look: 'text-slate' },
  unpacked: { words: 'Unpacked', look: 'text-slate' },
}

/** Files that have left Intake, folded away while others wait. */
export function Settled({ arrivals, alone }: { arrivals: Arrival[]; alone: boolean }) {
  const [open, setOpen] = useState(false)
  const set = useSet()
  const shown = alone || open
  return (
    <section
      aria-label="Files that have left Intake"
      className={`flex flex-col border-t border-line ${alone ? 'min-h-0 flex-1' : shown ? 'max-h-[40%]' : ''}`}
    >
      {!alone && (
        <button
          type="button"
          aria-expanded={open}
          className="px-4 py-1.5 text-left text-list text-second hover:text-ink"
          onClick={() => setOpen(!open)}
        >
          {open ? '▾' : '▸'} {arrivals.length} that have left Intake: {summary(arrivals)}
        </button>
      )}
      <ErrorNote error={set.error} />
      {shown && (
        <div className="min-h-0 flex-1 overflow-auto">
          <table className="w-full table-fixed border-collapse text-list text-second">
            <tbody>
              {arrivals.map((each) => (
                <tr key={each.id} className="border-b border-line/60 align-top">
                  <td className={`w-[112px] px-4 py-1.5 font-semibold ${LEFT[each.state]?.look ?? ''}`}>
                    {LEFT[each.state]?.words ?? each.state}
                  </td>
                  <td className="code w-[210px] truncate py-1.5">{each.number || each.file_name}</td>
                  <td className="code w-[56px] py-1.5">{each.revision}</td>
                  <td className="truncate py-1.5">{each.title}</td>
                  <td className="px-2 py-1.5">
                    {each.reason}{' '}
                    {each.state === 'split' && (
                      <Button
                        small
                        busy={set.isPending}
                        onClick={() => set.mutate({ arrival: each, apart: false })}
                      >
                        Put together again
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  )
}

function summary(arrivals: readonly Arrival[]): string {
  return Object.entries(LEFT)
    .map(([state, { words }]) => [arrivals.filter((each) => each.state === state).length, words] as const)
    .filter(([count]) => count > 0)
    .map(([count, words]) => `${count} ${words.toLowerCase()}`)
    .join(', ')
}
