import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { ErrorNote } from '../../ui/Notes'
import { Day } from '../../ui/Standing'
import type { Kept } from '../../ui/useKept'
import { Path } from './Path'
import { RouteRows } from './RouteRows'
import { keyOf, namedOf, useWhomToChoose } from '../../ui/usePeopleToChoose'
import { useTried, writtenOf, type StageGiven, type Tried } from './useRouteSteps'

interface Props {
  form: Kept
  route: Schemas['RouteShown'] | undefined
  /** What is written for this review alone; null while the route's path is gone. */
  own: StageGiven[] | null
  onOwn: (stages: StageGiven[] | null) => void
}

/** The path that the review will go: the route's, or what is written for this review alone. */
export function OwnPath({ form, route, own, onOwn }: Props) {
  const { project } = useSeat()
  if (own)
    return <Written form={form} own={own} whole={project.runs} onOwn={onOwn} back={route !== undefined} />
  if (!route) return null
  return (
    <>
      <Path route={route} />
      {(project.runs || route.may_change) && (
        <Button small className="self-start" onClick={() => onOwn(writtenOf(route).stages)}>
          {project.runs ? 'Change it for this review' : 'Put other people in'}
        </Button>
      )}
    </>
  )
}

interface WrittenProps extends Pick<Props, 'form' | 'onOwn'> {
  own: StageGiven[]
  /** All of it can be written on, not the people alone. */
  whole: boolean
  /** There is a route to go back to. */
  back: boolean
}

function Written({ form, own, whole, back, onOwn }: WrittenProps) {
  const whom = useWhomToChoose('answers by a link')
  const tried = useTried(own, {}, whole)
  return (
    <section aria-label="The path of this review">
      <p className="mb-2 text-second">
        {whole
          ? 'For this review alone. No route is changed by it.'
          : 'Other people for this review alone. The steps stay as the route has them.'}
      </p>
      {whole ? (
        <RouteRows form={form} stages={own} tried={tried.data} whom={whom.choices} onChange={onOwn} />
      ) : (
        <People own={own} tried={tried.data} whom={whom.choices} onOwn={onOwn} />
      )}
      <ErrorNote error={whom.error ?? tried.error} />
      {back && (
        <Button small className="mt-2" onClick={() => onOwn(null)}>
          As the route has it
        </Button>
      )}
    </section>
  )
}

interface PeopleProps extends Pick<Props, 'onOwn'> {
  own: StageGiven[]
  tried: Tried
  whom: ReturnType<typeof useWhomToChoose>['choices']
}

function People({ own, tried, whom, onOwn }: PeopleProps) {
  const put = (stage: number, at: number, keys: string[]) =>
    onOwn(
      own.map((each, place) =>
        place === stage
          ? {
              ...each,
              steps: each.steps.map((step, other) =>
                other === at ? { ...step, whom: keys.map(namedOf) } : step,
              ),
            }
          : each,
      ),
    )
  return (
    <ol className="border-2 border-second bg-surface">
      {own.map((stage, place) =>
        stage.steps.map((step, at) => (
          <li key={`${place} ${at}`} className="border-b border-line px-3 py-2 last:border-b-0">
            <p className="flex justify-between font-semibold">
              {step.name}
              {tried?.stages[place]?.steps[at] && (
                <span className="font-normal text-second">
                  by <Day on={tried.stages[place].steps[at].ends_on} />
                </span>
              )}
            </p>
            <ChooseMany
              label={`Whom: ${step.name}`}
              choices={whom}
              chosen={step.whom.map(keyOf)}
              onChange={(keys) => put(place, at, keys)}
            />
          </li>
        )),
      )}
    </ol>
  )
}
