import type { Schemas } from '../../api/client'
import { counted } from '../../domain/counted'
import { Day } from '../../ui/Standing'

type Step = Schemas['RouteStepShown']

/** A route with the dates it would take, before it is sent: a row a stage. */
export function Path({ route }: { route: Schemas['RouteShown'] }) {
  return (
    <section aria-label="The path" className="border-2 border-second bg-surface">
      <p className="border-b border-line px-3 py-2 text-second">{route.purpose}</p>
      <ol>
        {route.stages.map((stage, place) => (
          <li
            key={place}
            className="grid grid-cols-[24px_1fr] gap-x-2 border-b border-line px-3 py-2 text-list last:border-b-0"
          >
            <span className="font-bold text-second">{place + 1}</span>
            <div className="flex flex-col gap-1.5">
              {stage.steps.map((step, at) => (
                <PathStep key={at} step={step} beside={stage.steps.length > 1 && !step.sums_up} />
              ))}
              <Follows then={stage.then} />
            </div>
          </li>
        ))}
      </ol>
      <EndsSaid ends={route.ends_said} />
      <p className="border-t border-line px-3 py-2 text-second">
        Mail goes to the people of the first row now, to the others when it is their turn.
      </p>
    </section>
  )
}

/** What is done at the end, by verdict; nothing where the route says nothing. */
export function EndsSaid({ ends }: { ends: readonly Schemas['EndSaid'][] }) {
  if (ends.length === 0) return null
  return (
    <div className="border-t border-line px-3 py-2">
      <p className="font-semibold">At the end</p>
      <ul>
        {ends.map((each) => (
          <li key={each.verdict}>{each.words}</li>
        ))}
      </ul>
    </div>
  )
}

function PathStep({ step, beside }: { step: Step; beside: boolean }) {
  return (
    <div className={`grid grid-cols-[1fr_auto] gap-x-2 ${beside ? 'border-l border-line pl-2' : ''}`}>
      <div>
        <p className="font-semibold">
          {step.name}{' '}
          <span className="font-normal text-second">
            {step.sums_up && 'sums up, '}
            {step.act === 'decide' ? 'gives a verdict' : 'comments'}
          </span>
        </p>
        <p className="text-second">{whomOf(step)}</p>
        {step.people === 0 && <p className="font-semibold text-brick">Nobody is there for it today.</p>}
      </div>
      <p className="text-right">
        by <Day on={step.planned_on} />
        <span className="block text-second">
          {counted(step.days, step.counting === 'working' ? 'working day' : 'day')}
        </span>
      </p>
    </div>
  )
}

function whomOf(step: Step): string {
  const names = step.whom.map((each) => each.words || 'somebody who has left').join(', ')
  if (step.people === 1 && step.whom.length === 1) return names
  const many: Record<string, string> = {
    any: 'any one of ',
    all: 'all of ',
    some: `at least ${step.least} of `,
  }
  return `${many[step.quota] ?? ''}${names}${step.people === step.whom.length ? '' : ` (${step.people})`}`
}

function Follows({ then }: { then: Record<string, string> }) {
  const back = codesOf(then, 'back')
  const out = codesOf(then, 'end')
  if (!back && !out) return null
  return (
    <p className="text-note text-second">
      {back && `${back} goes back to its author. `}
      {out && `${out} is done here.`}
    </p>
  )
}

function codesOf(then: Record<string, string>, follows: string): string {
  return Object.keys(then)
    .filter((code) => then[code] === follows)
    .sort()
    .join(' or ')
}
