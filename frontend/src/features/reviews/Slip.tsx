import { useSeat } from '../../api/me'
import { dayText, dayOf } from '../../domain/dates'
import { counted } from '../../domain/counted'
import { Stamp, VerdictMark } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import type { Review, SlipPlace, SlipStep } from './useReviews'

/** The routing slip: a row a stage, steps beside each other share one; stamped as it goes. */
export function Slip({ review }: { review: Review }) {
  return (
    <section aria-label="Routing slip" className="border-2 border-second bg-paper">
      <header className="flex items-center justify-between border-b-2 border-second px-3 py-1.5">
        <h3 className="text-body font-semibold">Routing slip</h3>
        <span className="code text-second">{review.number}</span>
      </header>
      <ol>
        {stagesOf(review.slip).map((steps, place) => (
          <Stage key={place} place={place} steps={steps} review={review} />
        ))}
      </ol>
    </section>
  )
}

export function stagesOf(slip: readonly SlipStep[]): SlipStep[][] {
  const stages: SlipStep[][] = []
  slip.forEach((step) => (stages[step.stage] ??= []).push(step))
  return stages
}

function Stage({ place, steps, review }: { place: number; steps: SlipStep[]; review: Review }) {
  const beside = steps.filter((step) => !step.sums_up)
  const runs = steps.some((step) => step.state === 'running')
  return (
    <li
      aria-current={runs ? 'step' : undefined}
      className={`grid grid-cols-[30px_1fr] gap-x-2 border-b border-line px-3 py-2 text-list last:border-b-0 ${runs ? 'bg-surface' : ''}`}
    >
      <span className={`text-title leading-6 font-bold ${runs ? 'text-plum' : 'text-second'}`}>
        {place + 1}
      </span>
      <div className="min-w-0">
        {beside.length > 1 ? (
          <ul
            aria-label="Beside each other"
            className="grid grid-cols-[repeat(auto-fit,minmax(160px,1fr))] gap-x-3 gap-y-2"
          >
            {beside.map((step) => (
              <li key={step.id} className="border-l border-line pl-2">
                <Step step={step} review={review} narrow />
              </li>
            ))}
          </ul>
        ) : (
          beside.map((step) => <Step key={step.id} step={step} review={review} />)
        )}
        {steps
          .filter((step) => step.sums_up)
          .map((step) => (
            <div key={step.id} className="mt-2 border-t border-dashed border-line pt-2">
              <Step step={step} review={review} />
            </div>
          ))}
      </div>
    </li>
  )
}

function Step({ step, review, narrow = false }: { step: SlipStep; review: Review; narrow?: boolean }) {
  return (
    <div className={narrow ? 'flex flex-col gap-1' : 'grid grid-cols-[1fr_auto] gap-x-2'}>
      <div className="min-w-0">
        <p className="text-read">
          <span className={`font-semibold ${step.state === 'running' && narrow ? 'text-plum' : ''}`}>
            {step.name}
          </span>
          <span className="text-second"> · {whatOf(step)}</span>
        </p>
        <Facts step={step} />
        <Places step={step} />
        {step.why_ended && <p className="text-second">Ended without the rest: {step.why_ended}</p>}
        {step.places
          .filter((each) => each.note)
          .map((each) => (
            <p key={each.who.id} className="mt-1 border-l-2 border-line pl-2">
              {step.quota === 'any' ? '' : `${each.who.name}: `}“{each.note}”
            </p>
          ))}
      </div>
      <div className={narrow ? '' : 'flex items-start justify-end'}>
        <StepStamp step={step} review={review} />
      </div>
    </div>
  )
}

function whatOf(step: SlipStep): string {
  const days = counted(step.days, step.counting === 'working' ? 'working day' : 'day')
  const what = step.act === 'decide' ? 'verdict on each document' : 'comments'
  return `${step.sums_up ? `sums up, ${what}` : what} · ${days}`
}

const HOW_MANY: Record<string, (step: SlipStep) => string> = {
  any: () => 'any one of ',
  all: () => 'all of ',
  some: (step) => `at least ${step.needed} of `,
}

/** Whom a step asks: those with a place in it once it has begun, whom the route names before. */
function asksWhom(step: SlipStep): string {
  const people = step.places.filter((each) => each.state === 'asked').map(named)
  const words = people.length ? joined(people, step.quota === 'any' ? 'or' : 'and') : step.asks
  const alone = people.length ? people.length === 1 : step.asks_one
  return `${alone ? '' : (HOW_MANY[step.quota]?.(step) ?? '')}${words}`
}

function named(place: SlipPlace): string {
  const who = `${place.who.name} (${place.who.company})`
  return place.for_whom ? `${who} for ${place.for_whom.name}` : who
}

/** With whom, since when, due when: the same three everywhere. */
function Facts({ step }: { step: SlipStep }) {
  if (step.state === 'waiting')
    return (
      <p className="text-second">
        {asksWhom(step)}, expected by <Day on={step.planned_on} />
      </p>
    )
  if (step.state === 'done' || step.state === 'dropped')
    return (
      <p className="text-second">
        {handedIn(step)}
        {step.state === 'done' ? 'done' : 'dropped'} <When at={step.ended_at} time />
        {step.due_on && (
          <>
            , due <Day on={step.due_on} />
          </>
        )}
      </p>
    )
  return (
    <dl className="grid grid-cols-[44px_1fr] gap-x-2">
      <dt className="text-second">With</dt>
      <dd className="font-medium">
        <With step={step} />
      </dd>
      <dt className="text-second">Since</dt>
      <dd>
        <When at={step.taken_at ?? step.began_at} time />
        {step.quota === 'any' && !step.taken_by && step.places.length > 0 && (
          <span className="font-semibold text-ochre"> nobody has picked it up</span>
        )}
      </dd>
      <dt className="text-second">Due</dt>
      <dd>
        <Due standing={step} />
      </dd>
    </dl>
  )
}

function With({ step }: { step: SlipStep }) {
  const taken = step.places.find((each) => each.who.id === step.taken_by?.id && each.state === 'asked')
  if (!step.places.some((each) => each.state !== 'crossed'))
    return <span className="font-semibold text-brick">nobody: a lead puts somebody in, or ends it</span>
  return <>{taken ? named(taken) : asksWhom(step)}</>
}

function handedIn(step: SlipStep): string {
  const hands = step.places.filter((each) => each.state === 'handed_in')
  return hands.length && step.quota === 'any' ? `${hands.map(named).join(', ')}, ` : ''
}

const STATES: Record<string, string> = {
  asked: 'not yet',
  handed_in: 'handed in',
  not_needed: 'not needed',
  crossed: 'crossed out, the stage began again',
}

/** Everybody of a step that wants more than one hand, and whoever was there before it began again. */
function Places({ step }: { step: SlipStep }) {
  const shown = step.quota === 'any' ? step.places.filter((each) => each.state === 'crossed') : step.places
  if (!shown.length) return null
  return (
    <ul aria-label={`Hands of ${step.name}`} className="mt-1">
      {shown.map((each, place) => (
        <li key={place} className="flex flex-wrap items-baseline gap-x-2">
          <span className={each.state === 'crossed' ? 'text-second line-through' : 'font-medium'}>
            {named(each)}
          </span>
          <span className="text-second">
            {STATES[each.state]} {each.state === 'handed_in' && <When at={each.at} time />}
          </span>
          {each.verdicts.map((code) => (
            <VerdictMark key={code} code={code} />
          ))}
        </li>
      ))}
    </ul>
  )
}

function joined(names: string[], word: string): string {
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} ${word} ${names.at(-1)}`
}

/** The gravest verdict of a deciding step; `commented` for a commenting one. */
function StepStamp({ step, review }: { step: SlipStep; review: Review }) {
  const { project } = useSeat()
  const hands = step.places.filter((each) => each.state === 'handed_in')
  if (step.state !== 'done' || !step.ended_at || !hands.length) return null
  const below = `${dayText(dayOf(step.ended_at, project.time_zone), project.today)} ${hands.map((each) => each.stamp).join(' ')}`
  if (step.act !== 'decide') return <Stamp letter="✓" words="commented" meaning="slate" below={below} />
  const codes = new Set(hands.flatMap((each) => each.verdicts))
  const given = review.verdict_set.filter((verdict) => codes.has(verdict.code))
  const gravest = given.at(-1)
  if (!gravest) return null
  return (
    <Stamp
      letter={given.map((verdict) => verdict.code).join(' ')}
      words={given.length > 1 ? 'see each' : gravest.words}
      meaning={gravest.meaning}
      below={below}
    />
  )
}
