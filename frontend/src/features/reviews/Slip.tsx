import { useSeat } from '../../api/me'
import { dayText, dayOf } from '../../domain/dates'
import { Stamp } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import type { Review, SlipStep } from './useReviews'

/** The routing slip: a row a step, stamped as it goes. */
export function Slip({ review }: { review: Review }) {
  return (
    <section aria-label="Routing slip" className="border-2 border-second bg-paper">
      <header className="flex items-center justify-between border-b-2 border-second px-3 py-1.5">
        <h3 className="text-body font-semibold">Routing slip</h3>
        <span className="code text-second">{review.number}</span>
      </header>
      <ol>
        {review.slip.map((step, place) => (
          <li
            key={step.name}
            aria-current={step.state === 'running' ? 'step' : undefined}
            className={`grid grid-cols-[30px_1fr_auto] gap-x-2 border-b border-line px-3 py-2 text-list last:border-b-0 ${step.state === 'running' ? 'bg-surface' : ''}`}
          >
            <span
              className={`text-title leading-6 font-bold ${step.state === 'running' ? 'text-plum' : 'text-second'}`}
            >
              {place + 1}
            </span>
            <div>
              <p className="text-read">
                <span className="font-semibold">{step.name}</span>
                <span className="text-second">
                  {' '}
                  · {step.act === 'decide' ? 'verdict on each document' : 'comments'} · {step.days}{' '}
                  {step.counting === 'working' ? 'working days' : 'days'}
                </span>
              </p>
              <Facts step={step} />
              {step.note && <p className="mt-1 border-l-2 border-line pl-2">“{step.note}”</p>}
            </div>
            <div className="flex items-start justify-end">
              <StepStamp step={step} review={review} />
            </div>
          </li>
        ))}
      </ol>
    </section>
  )
}

/** With whom, since when, due when: the same three everywhere. */
function Facts({ step }: { step: SlipStep }) {
  const people = step.people.map((person) => `${person.name} (${person.company})`)
  if (step.state === 'waiting')
    return (
      <p className="text-second">
        {joined(people)}, expected by <Day on={step.planned_on} />
      </p>
    )
  if (step.state === 'done' || step.state === 'dropped')
    return (
      <p className="text-second">
        {step.taken_by?.name ?? joined(people)}, {step.state === 'done' ? 'handed in' : 'dropped'}{' '}
        <When at={step.ended_at} time />, due <Day on={step.due_on} />
      </p>
    )
  return (
    <dl className="grid grid-cols-[44px_1fr] gap-x-2">
      <dt className="text-second">With</dt>
      <dd className="font-medium">
        {step.taken_by ? step.taken_by.name : `any one of ${joined(people)}`}
        {step.taken_by && <span className="code ml-1 font-normal text-second">{step.taken_by.company}</span>}
      </dd>
      <dt className="text-second">Since</dt>
      <dd>
        <When at={step.taken_at ?? step.began_at} time />
        {!step.taken_by && <span className="font-semibold text-ochre"> nobody has picked it up</span>}
      </dd>
      <dt className="text-second">Due</dt>
      <dd>
        <Due standing={step} />
      </dd>
    </dl>
  )
}

function joined(names: string[]): string {
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} or ${names.at(-1)}`
}

/** The gravest verdict of a deciding step; `seen` for a commenting one. */
function StepStamp({ step, review }: { step: SlipStep; review: Review }) {
  const { project } = useSeat()
  if (step.state !== 'done' || !step.ended_at) return null
  const below = `${dayText(dayOf(step.ended_at, project.time_zone), project.today)} ${step.stamp}`
  if (step.act !== 'decide') return <Stamp letter="✓" words="commented" meaning="slate" below={below} />
  const given = review.verdict_set.filter((verdict) =>
    step.answers.some((answer) => answer.verdict === verdict.code),
  )
  const gravest = given.at(-1)
  if (!gravest) return null
  const several = given.length > 1 ? `${given.map((verdict) => verdict.code).join(' ')}` : gravest.code
  return (
    <Stamp
      letter={several}
      words={given.length > 1 ? 'see each' : gravest.words}
      meaning={gravest.meaning}
      below={below}
    />
  )
}
