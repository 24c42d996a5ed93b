import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { hasLevel, useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { idsOfAddress, useChosen, type ChosenLine } from '../../ui/chosen'
import { Select, TextArea, TextField } from '../../ui/Field'
import { Day } from '../../ui/Standing'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { OwnPath } from './OwnPath'
import { ReadyRoute } from './ReadyRoute'
import { namedOf, useWhomToChoose } from '../../ui/usePeopleToChoose'
import { useRoutes } from '../../ui/useRoutes'
import { A_ROW, type StageGiven } from './useRouteSteps'
import { useHere } from '../../ui/useHere'

type Route = Schemas['RouteShown']

/** What goes where, with its dates, before it is sent. */
export function StartReviewPage() {
  const { documents: asked } = useSearch({ from: '/frame/reviews/new' })
  const navigate = useNavigate()
  const routes = useRoutes()
  const ids = idsOfAddress(asked)
  const chosen = useChosen({ documents: ids })
  const toRegister = <Button onClick={() => void navigate({ to: '/register' })}>Go to the register</Button>
  if (!ids.length)
    return (
      <Empty title="Start a review" act={toRegister}>
        Mark the documents to review in the register first.
      </Empty>
    )
  if (isLost(chosen)) return <ErrorNote error={chosen.error} again={() => void chosen.refetch()} />
  if (isLost(routes)) return <ErrorNote error={routes.error} again={() => void routes.refetch()} />
  const mine = routes.data?.filter((each) => each.may_start)
  if (!mine || !chosen.data) return <Loading what="the documents" />
  return (
    <div className="h-full overflow-auto px-6 py-5">
      {mine.length ? (
        <StartForm of={asked} lines={chosen.data.lines} missing={chosen.data.missing} routes={mine} />
      ) : (
        <NoRoute others={routes.data?.length ?? 0} />
      )}
    </div>
  )
}

/** A project that has no route yet: whoever runs it makes the ready one from names. */
function NoRoute({ others }: { others: number }) {
  const { project } = useSeat()
  const runs = hasLevel(project, 'keep')
  return (
    <div className="mx-auto max-w-[640px]">
      <h1 className="text-title font-semibold">Start a review</h1>
      <p className="mt-1 text-read">
        {others ? 'The routes of this project are for others to start.' : 'This project has no route yet.'} A
        route says who comments, who decides, and by when.{' '}
        {runs
          ? 'Make the first one from names: it can be used again for every review.'
          : 'A lead or a document controller makes the first one; then the review can start.'}
      </p>
      {runs && <ReadyRoute />}
    </div>
  )
}

interface FormProps {
  of: string
  lines: ChosenLine[]
  missing: number
  routes: Route[]
}

/** What is written of a review that is not sent yet: kept over reloads, and checked as it stands. */
function useStarting({ of, lines, routes }: Pick<FormProps, 'of' | 'lines' | 'routes'>) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const form = useKept('start-review', of)
  const [routeId, setRouteId] = useField(form, 'routeId', '')
  const [name, setName] = useField(form, 'name', '')
  const [message, setMessage] = useField(form, 'message', '')
  const [leftOut, setLeftOut] = useField<string[]>(form, 'leftOut', [])
  const [own, setOwn] = useField<StageGiven[] | null>(form, 'own', null)
  const [tell, setTell] = useField<string[]>(form, 'tell', [])
  const route = routeId === OWN ? undefined : (routes.find((each) => each.id === routeId) ?? routes[0])
  const going = lines.filter((line) => !leftOut.includes(line.id))
  const documents = Object.fromEntries(going.map((line) => [line.id, line.revision_id]))
  const path = { route_id: route?.id ?? '', stages: own ?? [] }
  const checked = useStartCheck(path, documents)
  const body = () => ({ project_id: project.id, ...path, name, message, documents, tell: tell.map(namedOf) })
  const here = useHere()
  const start = useMutation({
    mutationFn: () => sendOnce(form, (more) => unwrap(api.POST('/api/reviews', { ...more, body: body() }))),
    onSuccess: async (started) => {
      await client.invalidateQueries()
      await here(() => navigate({ to: '/reviews/$reviewId', params: { reviewId: started.id } }))
    },
  })
  return {
    form,
    route,
    own,
    setOwn,
    tell,
    setTell,
    setRouteId: (id: string) => {
      setRouteId(id)
      setOwn(id === OWN ? [A_ROW] : null)
    },
    name,
    setName,
    message,
    setMessage,
    leftOut,
    setLeftOut,
    going,
    checked,
    start,
    leave: () => void navigate({ to: '/register' }),
  }
}

type Starting = ReturnType<typeof useStarting>

const OWN = 'own'
const OWN_PATH = { code: OWN, words: 'a path of its own' }

function StartForm({ missing, routes, ...given }: FormProps) {
  const { project } = useSeat()
  const starting = useStarting({ routes, ...given })
  const { route, checked } = starting
  return (
    <form
      className={`mx-auto grid gap-8 ${starting.own && project.runs ? 'max-w-[1240px] min-[1100px]:grid-cols-[1fr_640px]' : 'max-w-[1060px] min-[900px]:grid-cols-[1fr_380px]'}`}
      onSubmit={(event) => {
        event.preventDefault()
        starting.start.mutate()
      }}
    >
      <div className="flex min-w-0 flex-col gap-3">
        <h1 className="text-title font-semibold">Start a review</h1>
        <What starting={starting} />
        <Lines
          lines={starting.going}
          missing={missing}
          obstacles={checked.data?.obstacles ?? []}
          onLeaveOut={(out) => starting.setLeftOut([...starting.leftOut, ...out])}
        />
        <LeftOut starting={starting} />
        <WhoElse starting={starting} />
        <ErrorNote error={starting.start.error ?? checked.error} />
        <Send starting={starting} />
      </div>
      <div className="flex flex-col gap-3">
        <Select
          label="Route"
          value={route?.id ?? OWN}
          onChange={starting.setRouteId}
          choices={[
            ...routes.map((each) => ({ code: each.id, words: each.name })),
            ...(project.runs ? [OWN_PATH] : []),
          ]}
        />
        <OwnPath form={starting.form} route={route} own={starting.own} onOwn={starting.setOwn} />
        {checked.data && <WhenDone checked={checked.data} />}
      </div>
    </form>
  )
}

function What({ starting: { form, name, setName, message, setMessage } }: { starting: Starting }) {
  return (
    <>
      <TextField
        keep={form}
        label="Name"
        required
        maxLength={200}
        value={name}
        onChange={(event) => setName(event.target.value)}
        placeholder="What goes round, in a few words"
      />
      <TextArea
        keep={form}
        label="Message to the reviewers"
        rows={3}
        value={message}
        onChange={(event) => setMessage(event.target.value)}
      />
    </>
  )
}

/** Told at once, and of what is decided: they follow the review. */
function WhoElse({ starting: { tell, setTell } }: { starting: Starting }) {
  const whom = useWhomToChoose()
  return (
    <ChooseMany
      label="Who else should know; they are told now, and of what is decided"
      choices={whom.choices}
      chosen={tell}
      onChange={setTell}
    />
  )
}

function LeftOut({ starting: { leftOut, setLeftOut } }: { starting: Starting }) {
  if (leftOut.length === 0) return null
  return (
    <p>
      {counted(leftOut.length, 'document')} left out.{' '}
      <Button small onClick={() => setLeftOut([])}>
        Put them back
      </Button>
    </p>
  )
}

function Send({ starting: { name, going, checked, start, leave } }: { starting: Starting }) {
  return (
    <div className="flex gap-2">
      <Button
        look="act"
        type="submit"
        busy={start.isPending}
        why={reasonNot(name, going, checked.data?.obstacles ?? [])}
      >
        Send {going.length} on the route
      </Button>
      <Button onClick={leave}>Leave</Button>
    </div>
  )
}

type Obstacle = Schemas['Obstacle']

function reasonNot(
  name: string,
  going: readonly ChosenLine[],
  obstacles: readonly Obstacle[],
): string | false {
  if (!name.trim()) return 'Give the review a name first.'
  if (going.length === 0) return 'Every document is left out.'
  const first = obstacles.find((each) => each.stops)
  return first ? `${first.number}: ${first.words}` : false
}

/** What stands in the way of these on this route, and what the contract says of its days. */
function useStartCheck(path: { route_id: string; stages: StageGiven[] }, documents: Record<string, string>) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['start-check', project.id, path, documents],
    queryFn: () =>
      unwrap(api.POST('/api/reviews/check', { body: { project_id: project.id, ...path, documents } })),
    enabled:
      (path.route_id !== '' || path.stages.some((each) => each.steps.length > 0)) &&
      Object.keys(documents).length > 0,
    placeholderData: (before) => before,
    retry: false,
  })
}

/** When the path ends, as allowed and as fast as those asked have been, beside the day of the contract. */
function WhenDone({ checked }: { checked: Schemas['StartChecked'] }) {
  const { ends_on: ends, forecast_on: forecast, contract, warning } = checked
  return (
    <section aria-label="When it is done" className="border border-line bg-surface px-3 py-2 text-list">
      <p>
        Done by <Day on={ends} />
        {forecast && forecast !== ends && (
          <span className="text-second">
            ; as those asked have answered so far, <Day on={forecast} />
          </span>
        )}
        .
      </p>
      {contract && (
        <p>
          The contract wants an answer by <Day on={contract.answer_by} /> ({contract.number}, {contract.words}
          ; {contract.silence_words}).
        </p>
      )}
      {warning && (
        <p role="alert" className="mt-1 font-semibold text-brick">
          {warning}
        </p>
      )}
    </section>
  )
}

interface LinesProps {
  lines: readonly ChosenLine[]
  missing: number
  obstacles: readonly Obstacle[]
  onLeaveOut: (documents: string[]) => void
}

/** What goes, and at each line what stands in its way; a click leaves it out. */
function Lines({ lines, missing, obstacles, onLeaveOut }: LinesProps) {
  const stopped = new Set(obstacles.filter((each) => each.stops).map((each) => each.document_id))
  return (
    <>
      <h2 className="mt-2 text-read font-semibold">
        {counted(lines.length, 'document')}, at these revisions
      </h2>
      {missing > 0 && (
        <p className="text-ochre">
          {counted(missing, 'more document is', 'more documents are')} not there for you any more.
        </p>
      )}
      {stopped.size > 1 && (
        <p role="status" className="flex items-center gap-3 font-semibold text-brick">
          {stopped.size} of them cannot go.
          <Button small onClick={() => onLeaveOut([...stopped])}>
            Leave these out
          </Button>
        </p>
      )}
      <ul className="border-t border-line bg-surface">
        {lines.map((line) => (
          <li key={line.id} className="border-b border-line px-2 py-1.5 text-list">
            <div className="flex items-center gap-2">
              <span className="code">{line.number}</span>
              <span className="code font-bold">{line.revision}</span>
              <span className="min-w-0 flex-1 truncate">{line.title}</span>
              {stopped.has(line.id) && (
                <Button small onClick={() => onLeaveOut([line.id])}>
                  Leave it out
                </Button>
              )}
            </div>
            {obstacles
              .filter((each) => each.document_id === line.id)
              .map((each) => (
                <p key={each.words}>
                  <span className={each.stops ? 'font-semibold text-brick' : 'text-ochre'}>{each.words}</span>{' '}
                  <span className="text-second">{each.remedy}</span>
                </p>
              ))}
          </li>
        ))}
      </ul>
    </>
  )
}
