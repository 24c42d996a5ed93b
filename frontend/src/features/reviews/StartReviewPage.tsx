import { useMutation, useQueries, useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Select, TextArea, TextField } from '../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { Day } from '../../ui/Standing'
import { useRoutes } from './useReviews'
import { sendOnce, useField, useKept } from '../../ui/useKept'

/** What goes where, with its dates, before it is sent. */
export function StartReviewPage() {
  const { documents: chosen } = useSearch({ from: '/frame/reviews/new' })
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const routes = useRoutes()
  const form = useKept('start-review', chosen)
  const [routeId, setRouteId] = useField(form, 'routeId', '')
  const [name, setName] = useField(form, 'name', '')
  const [message, setMessage] = useField(form, 'message', '')
  const ids = chosen.split(',').filter(Boolean)
  const documents = useQueries({
    queries: ids.map((id) => ({
      queryKey: ['document', id],
      queryFn: () =>
        unwrap(api.GET('/api/documents/{document_id}', { params: { path: { document_id: id } } })),
    })),
  })
  const lines = documents.flatMap((each) => (each.data ? [each.data.line] : []))
  const route = routes.data?.find((each) => each.id === routeId) ?? routes.data?.[0]
  const start = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/reviews', {
            ...more,
            body: {
              project_id: project.id,
              route_id: route?.id ?? '',
              name,
              message,
              documents: Object.fromEntries(lines.map((line) => [line.id, line.revision_id])),
            },
          }),
        ),
      ),
    onSuccess: async (started) => {
      await client.invalidateQueries()
      await navigate({ to: '/reviews/$reviewId', params: { reviewId: started.id } })
    },
  })
  const failed = documents.find((each) => each.error)?.error
  if (!ids.length)
    return (
      <Empty act={<Button onClick={() => void navigate({ to: '/register' })}>Go to the register</Button>}>
        Mark the documents to review in the register first.
      </Empty>
    )
  if (routes.isPending || documents.some((each) => each.isPending)) return <Loading what="the documents" />
  return (
    <div className="h-full overflow-auto px-6 py-5">
      <form
        className="mx-auto grid max-w-[1060px] grid-cols-[1fr_380px] gap-8"
        onSubmit={(event) => {
          event.preventDefault()
          start.mutate()
        }}
      >
        <div className="flex flex-col gap-3">
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
          <h2 className="mt-2 text-read font-semibold">
            {lines.length} {lines.length === 1 ? 'document' : 'documents'}, at these revisions
          </h2>
          <ul className="border-t border-line bg-surface">
            {lines.map((line) => (
              <li key={line.id} className="flex gap-2 border-b border-line px-2 py-1.5 text-list">
                <span className="code">{line.number}</span>
                <span className="code font-bold">{line.revision}</span>
                <span className="truncate">{line.title}</span>
              </li>
            ))}
          </ul>
          <ErrorNote error={failed ?? start.error ?? routes.error} />
          <div className="flex gap-2">
            <Button look="act" type="submit" disabled={!name.trim() || !route || start.isPending}>
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
            choices={(routes.data ?? []).map((each) => ({ code: each.id, words: each.name }))}
          />
          {route && (
            <section aria-label="The path" className="border-2 border-second bg-surface">
              <p className="border-b border-line px-3 py-2 text-second">{route.purpose}</p>
              <ol>
                {route.steps.map((step, place) => (
                  <li
                    key={step.name}
                    className="grid grid-cols-[24px_1fr_auto] gap-x-2 border-b border-line px-3 py-2 text-list last:border-b-0"
                  >
                    <span className="font-bold text-second">{place + 1}</span>
                    <div>
                      <p className="font-semibold">
                        {step.name}{' '}
                        <span className="font-normal text-second">
                          {step.act === 'decide' ? 'gives a verdict' : 'comments'}
                        </span>
                      </p>
                      <p className="text-second">
                        {step.people.length > 1 && 'any one of '}
                        {step.people.map((person) => person.name).join(', ')}
                      </p>
                    </div>
                    <p className="text-right">
                      by <Day on={step.planned_on} />
                      <span className="block text-second">
                        {step.days} {step.counting === 'working' ? 'working days' : 'days'}
                      </span>
                    </p>
                  </li>
                ))}
              </ol>
              <p className="border-t border-line px-3 py-2 text-second">
                Mail goes to the people of the first step now, to the others when it is their turn.
              </p>
            </section>
          )}
        </div>
      </form>
    </div>
  )
}
