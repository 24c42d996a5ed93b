import { Button } from '../../ui/Button'
import type { Kept } from '../../ui/useKept'
import { useNewLine } from '../../ui/useNewLine'
import { RouteRow } from './RouteRow'
import type { useWhomToChoose } from '../../ui/usePeopleToChoose'
import { A_ROW, countSteps, MOST_STEPS, type StageGiven, type Tried } from './useRouteSteps'

interface Props {
  form: Kept
  stages: StageGiven[]
  tried: Tried
  whom: ReturnType<typeof useWhomToChoose>['choices']
  onChange: (stages: StageGiven[]) => void
}

/** The rows of a slip that one writes on. */
export function RouteRows({ form, stages, tried, whom, onChange }: Props) {
  const { list, added } = useNewLine<HTMLOListElement>()
  const full = countSteps(stages) >= MOST_STEPS && 'A route has ten steps at most.'
  return (
    <>
      <ol ref={list} className="border-2 border-second bg-surface empty:hidden">
        {stages.map((stage, place) => (
          <RouteRow
            key={place}
            keep={form}
            stage={stage}
            place={place}
            last={stages.length - 1}
            whom={whom}
            tried={tried?.stages[place]}
            full={full}
            onChange={(part) =>
              onChange(stages.map((each, at) => (at === place ? { ...each, ...part } : each)))
            }
            onMove={(by) => onChange(moved(stages, place, by))}
            onTake={() => onChange(stages.filter((_, at) => at !== place))}
          />
        ))}
      </ol>
      <Button
        small
        className="mt-2"
        why={full}
        onClick={() => {
          added()
          onChange([...stages, A_ROW])
        }}
      >
        Add a step
      </Button>
    </>
  )
}

function moved(stages: readonly StageGiven[], place: number, by: number): StageGiven[] {
  const next = [...stages]
  const [stage] = next.splice(place, 1)
  if (stage) next.splice(place + by, 0, stage)
  return next
}
