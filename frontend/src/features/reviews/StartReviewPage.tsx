import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { hasLevel, useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { idsOfAddress, useChosen, type ChosenLine } from '../../ui/chosen'
import { Select, TextArea, TextField } from '../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { Path } from './Path'
import { ReadyRoute } from './ReadyRoute'
import { useRoutes } from './useReviews'

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

function StartForm({ of, lines, missing, routes }: FormProps) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const form = useKept('start-review', of)
  const [routeId, setRouteId] = useField(form, 'routeId', '')
  const [name, setName] = useField(form, 'name', '')
  const [message, setMessage] = useField(form, 'message', '')
  const route = routes.find((each) => each.id === routeId) ?? routes[0]
  const start = useMutation({
    mutationFn: () => sendOnce(form, (more) => unwrap(api.POST('/api/reviews', { ...more, body: body() }))),
    onSuccess: async (started) => {
      await client.invalidateQueries()
      await navigate({ to: '/reviews/$reviewId', params: { reviewId: started.id } })
    },
  })
  const body = () => ({
    project_id: project.id,
    route_id: route?.id ?? '',
    name,
    message,
    documents: Object.fromEntries(lines.map((line) => [line.id, line.revision_id])),
  })
  return (
    <form
      className="mx-auto grid max-w-[1060px] gap-8 min-[900px]:grid-cols-[1fr_380px]"
      onSubmit={(event) => {
        event.preventDefault()
        start.mutate()
      }}
    >
      <div className="flex min-w-0 flex-col gap-3">
        <h1 className="text-title font-semibold">Start a review</h1>
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
        <Lines lines={lines} missing={missing} />
        <ErrorNote error={start.error} />
        <div className="flex gap-2">
          <Button
            look="act"
            type="submit"
            busy={start.isPending}
            why={!name.trim() && 'Give the review a name first.'}
          >
            Send {lines.length} on the route
          </Button>
          <Button onClick={() => void navigate({ to: '/register' })}>Leave</Button>
        </div>
      </div>
      <div className="flex flex-col gap-3">
        <Select
          label="Route"
          value={route?.id ?? ''}
          onChange={setRouteId}
          choices={routes.map((each) => ({ code: each.id, words: each.name }))}
        />
        {route && <Path route={route} />}
      </div>
    </form>
  )
}

function Lines({ lines, missing }: { lines: ChosenLine[]; missing: number }) {
  return (
    <>
      <h2 className="mt-2 text-read font-semibold">
        {counted(lines.length, 'document')}, at these revisions
      </h2>
      {missing > 0 && (
        <p className="text-ochre">{counted(missing, 'document')} more are not there for you any more.</p>
      )}
      <ul className="border-t border-line bg-surface">
        {lines.map((line) => (
          <li key={line.id} className="flex gap-2 border-b border-line px-2 py-1.5 text-list">
            <span className="code">{line.number}</span>
            <span className="code font-bold">{line.revision}</span>
            <span className="truncate">{line.title}</span>
          </li>
        ))}
      </ul>
    </>
  )
}
