import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react'

import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { inSet } from '../../domain/verdicts'
import { Button } from '../../ui/Button'
import type { Choosable } from '../../ui/ChooseMany'
import { Select } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import type { Kept } from '../../ui/useKept'
import { RouteStep } from './RouteStep'
import { A_STEP, type StageGiven, type StepGiven } from './useRouteSteps'

interface Props {
  keep: Kept
  stage: StageGiven
  place: number
  last: number
  whom: readonly Choosable[]
  tried: Schemas['StageTried'] | undefined
  full: string | false
  onChange: (part: Partial<StageGiven>) => void
  onMove: (by: number) => void
  onTake: () => void
}

/** A row of the slip: one step, or several beside each other and one that sums up what they said. */
export function RouteRow({ keep, stage, place, last, whom, tried, full, onChange, onMove, onTake }: Props) {
  const name = stage.steps[0]?.name || `step ${place + 1}`
  const { steps } = stage
  const set = (at: number, part: Partial<StepGiven>) =>
    onChange({ steps: steps.map((each, other) => (other === at ? { ...each, ...part } : each)) })
  const take = (at: number) => onChange({ steps: withoutStep(steps, at) })
  return (
    <li className="border-b border-line px-3 py-2 last:border-b-0">
      <div className="grid grid-cols-[20px_1fr_auto] items-start gap-3 max-md:grid-cols-[20px_1fr]">
        <span className="pt-5 font-bold text-plum">{place + 1}</span>
        <div className="grid min-w-0 grid-cols-[repeat(auto-fit,minmax(min(100%,250px),1fr))] gap-x-4 gap-y-3">
          {steps.map((step, at) => (
            <RouteStep
              key={at}
              keep={keep}
              step={step}
              name={step.name || `step ${place + 1}`}
              alone={steps.length === 1}
              whom={whom}
              tried={tried?.steps[at]}
              onChange={(part) => set(at, part)}
              onTake={() => take(at)}
            />
          ))}
        </div>
        <Acts name={name} place={place} last={last} onMove={onMove} onTake={onTake} />
      </div>
      <div className="mt-2 ml-8 flex flex-wrap items-center gap-x-4 gap-y-2">
        <Button small why={full} onClick={() => onChange({ steps: besideOthers(steps) })}>
          Another beside it
        </Button>
        {steps.length > 1 && !steps.some((step) => step.sums_up) && (
          <Button small why={full} onClick={() => onChange({ steps: [...steps, summingUp(steps)] })}>
            Somebody sums up
          </Button>
        )}
        <Follows stage={stage} onChange={(then) => onChange({ then })} />
      </div>
      {tried?.hint && <p className="mt-1 ml-8 text-note text-ochre">{tried.hint}</p>}
    </li>
  )
}

/** A new one stands before whoever sums up. */
function besideOthers(steps: readonly StepGiven[]): StepGiven[] {
  const { act, days, verdicts } = steps[0] ?? A_STEP
  const like = { ...A_STEP, act, days, verdicts: verdicts ?? '' }
  const at = steps.findIndex((step) => step.sums_up)
  return at < 0 ? [...steps, like] : [...steps.slice(0, at), like, ...steps.slice(at)]
}

function summingUp(steps: readonly StepGiven[]): StepGiven {
  const deciding = steps.find((step) => step.act === 'decide')
  const like = { ...A_STEP, name: 'Sum up', sums_up: true }
  return deciding ? { ...like, act: 'decide', verdicts: deciding.verdicts ?? '' } : like
}

/** Of a single step nothing can be summed up. */
function withoutStep(steps: readonly StepGiven[], at: number): StepGiven[] {
  const left = steps.filter((_, other) => other !== at)
  return left.length === 1 ? left.map((step) => ({ ...step, sums_up: false })) : left
}

const FOLLOWS = [
  { code: 'on', words: 'goes on' },
  { code: 'back', words: 'back to its author' },
  { code: 'end', words: 'done here' },
]

/** What becomes of a document by its verdict, once the row is done. */
function Follows({
  stage,
  onChange,
}: {
  stage: StageGiven
  onChange: (then: NonNullable<StageGiven['then']>) => void
}) {
  const { project } = useSeat()
  const deciding = stage.steps.find((step) => step.act === 'decide')
  if (!deciding) return null
  const then = stage.then ?? {}
  return (
    <fieldset className="flex flex-wrap items-center gap-x-3 gap-y-1 text-note text-second">
      <legend className="sr-only">What follows each verdict</legend>
      {inSet(project.verdict_set, deciding.verdicts ?? '').map(({ code, words }) => (
        <span key={code} className="flex items-center gap-1" title={words}>
          <span className="font-bold text-ink">{code}</span>
          <Select
            hideLabel
            label={`A document with ${code}, ${words}`}
            value={then[code] ?? 'on'}
            onChange={(next) => onChange({ ...then, [code]: next as 'on' | 'back' | 'end' })}
            choices={FOLLOWS}
          />
        </span>
      ))}
    </fieldset>
  )
}

interface ActsProps extends Pick<Props, 'place' | 'last' | 'onMove' | 'onTake'> {
  name: string
}

function Acts({ name, place, last, onMove, onTake }: ActsProps) {
  return (
    <span className="flex pt-5 text-second max-md:col-start-2 max-md:pt-0">
      <IconButton
        label={`Move ${name} up`}
        disabled={place === 0}
        onClick={() => onMove(-1)}
        icon={<ArrowUp size={14} />}
      />
      <IconButton
        label={`Move ${name} down`}
        disabled={place === last}
        onClick={() => onMove(1)}
        icon={<ArrowDown size={14} />}
      />
      <IconButton label={`Take ${name} away`} onClick={onTake} icon={<Trash2 size={14} />} />
    </span>
  )
}
