import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ChooseMany } from '../../ui/ChooseMany'
import { askChosen, idsOfAddress } from '../../ui/chosen'
import { Select, TextArea } from '../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { VerdictMark } from '../../ui/Stamp'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { isLost } from '../../api/fetched'
import { DateField } from '../../ui/DateField'
import { useHere } from '../../ui/useHere'

interface Line {
  revisionId: string
  number: string
  revision: string
  title: string
  verdict: string
}

/** Makes a transmittal from a closed review, a drawing set or marked documents; says what will happen, to whom, first. */
export function SendPage() {
  const { review, revisions, set } = useSearch({ from: '/frame/transmittals/new' })
  const lines = useLines(review, revisions, set)
  const navigate = useNavigate()
  if (isLost(lines)) return <ErrorNote error={lines.error} again={() => void lines.refetch()} />
  if (!lines.data) return <Loading what="the documents" />
  if (!lines.data.lines.length)
    return (
      <Empty
        title="Send out"
        act={<Button onClick={() => void navigate({ to: '/register' })}>Go to the register</Button>}
      >
        Mark the documents to send in the register first, or send them from a closed review or a drawing set.
      </Empty>
    )
  return <Form lines={lines.data.lines} of={lines.data.name} reviewId={review} />
}

function useLines(review: string | undefined, revisions: string | undefined, set: string | undefined) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['to-send', review, revisions, set],
    queryFn: async (): Promise<{ lines: Line[]; name: string }> => {
      if (review) {
        const found = await unwrap(
          api.GET('/api/reviews/{review_id}', { params: { path: { review_id: review } } }),
        )
        return { lines: found.documents.map((each) => ({ ...each, revisionId: each.revision_id })), name: '' }
      }
      const ids = idsOfAddress(revisions ?? '')
      if (!set && !ids.length) return { lines: [], name: '' }
      const chosen = await askChosen(project.id, set ? { set_id: set } : { revisions: ids })
      return {
        lines: chosen.lines.map((each) => ({ ...each, revisionId: each.revision_id })),
        name: chosen.name,
      }
    },
  })
}

interface FormProps {
  lines: Line[]
  /** The drawing set that is sent, if it is one. */
  of: string
  reviewId: string | undefined
}

function Form({ lines, of, reviewId }: FormProps) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const revisions = lines.map((line) => line.revisionId)
  const form = useKept('send', reviewId ?? revisions.join(' ').slice(0, 900))
  const [people, setPeople] = useField<string[]>(form, 'people', [])
  const [copied, setCopied] = useField<string[]>(form, 'copied', [])
  const [purpose, setPurpose] = useField(form, 'purpose', 'information')
  const [note, setNote] = useField(form, 'note', '')
  const [wanted, setWanted] = useField(form, 'wanted', '')
  const addressees = useQuery({
    queryKey: ['addressees', project.id],
    queryFn: () => unwrap(api.GET('/api/addressees', { params: { query: { project_id: project.id } } })),
  })
  const check = useQuery({
    queryKey: ['check-sending', revisions, purpose],
    queryFn: () =>
      unwrap(api.POST('/api/transmittals/check', { body: { project_id: project.id, revisions, purpose } })),
  })
  const here = useHere()
  const send = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/transmittals', {
            ...more,
            body: {
              project_id: project.id,
              revisions,
              people,
              copied: copied.filter((each) => !people.includes(each)),
              purpose,
              note,
              answer_wanted_on: wanted || null,
              review_id: reviewId ?? null,
            },
          }),
        ),
      ),
    onSuccess: async (sent) => {
      await client.invalidateQueries()
      await here(() => navigate({ to: '/transmittals/$transmittalId', params: { transmittalId: sent.id } }))
    },
  })
  const chosen = addressees.data?.people.filter((each) => people.includes(each.who.id)) ?? []
  const copies = addressees.data?.people.filter(
    ({ who }) => copied.includes(who.id) && !people.includes(who.id),
  )
  const copyWords = copies?.length
    ? ` A copy goes to ${copies.map((each) => each.who.name).join(', ')}, of whom nothing is wanted.`
    : ''
  return (
    <div className="h-full overflow-auto px-6 py-5">
      <form
        className="mx-auto grid max-w-[1100px] gap-8 min-[900px]:grid-cols-[1fr_400px]"
        onSubmit={(event) => {
          event.preventDefault()
          send.mutate()
        }}
      >
        <div className="flex min-w-0 flex-col gap-3">
          <h1 className="text-title font-semibold">Send out</h1>
          <div className="grid grid-cols-2 gap-3">
            <Select
              label="Purpose of issue"
              value={purpose}
              onChange={setPurpose}
              choices={addressees.data?.purposes ?? []}
            />
            <DateField keep={form} label="Answer wanted by" value={wanted} onChange={setWanted} />
          </div>
          <TextArea
            keep={form}
            label="Covering note"
            rows={4}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <h2 className="mt-1 text-read font-semibold">
            {of && `${of}: `}
            {counted(lines.length, 'document')}, at exactly these revisions
          </h2>
          <ul className="border-t border-line bg-surface">
            {lines.map((line) => (
              <li
                key={line.revisionId}
                className="flex items-center gap-2 border-b border-line px-2 py-1.5 text-list"
              >
                <span className="code">{line.number}</span>
                <span className="code font-bold">{line.revision}</span>
                <span className="min-w-0 flex-1 truncate">{line.title}</span>
                <VerdictMark code={line.verdict} />
              </li>
            ))}
          </ul>
          {check.data && check.data.warnings.length > 0 && (
            <div role="alert" className="border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-ochre">
              <p className="font-semibold">Look before you send:</p>
              {check.data.warnings.map((warning) => (
                <p key={warning}>{warning}</p>
              ))}
            </div>
          )}
        </div>
        <div className="flex flex-col gap-3">
          <People people={addressees.data?.people ?? []} chosen={people} onChange={setPeople} />
          <ChooseMany
            label="Copied, for information"
            choices={(addressees.data?.people ?? [])
              .filter((each) => !people.includes(each.who.id))
              .map((each) => ({ key: each.who.id, words: each.who.name, note: each.who.company }))}
            chosen={copied.filter((each) => !people.includes(each))}
            onChange={setCopied}
          />
          <ErrorNote error={send.error ?? addressees.error ?? check.error} />
          <div className="border border-line bg-surface p-3">
            <p className="mb-2 text-second">
              {chosen.length === 0
                ? 'Choose who receives it.'
                : `${chosen.map((each) => each.who.name).join(', ')} will get a mail with a link to the cover sheet and all documents. What is sent stays as it is.${copyWords}`}
            </p>
            <div className="flex gap-2">
              <Button
                look="act"
                type="submit"
                busy={send.isPending}
                why={!people.length && 'Choose who receives it first.'}
              >
                Send to {chosen.length || '…'}
              </Button>
              <Button onClick={() => history.back()}>Leave</Button>
            </div>
          </div>
        </div>
      </form>
    </div>
  )
}

interface PeopleProps {
  people: Schemas['Addressee'][]
  chosen: string[]
  onChange: (chosen: string[]) => void
}

function People({ people, chosen, onChange }: PeopleProps) {
  const toggle = (id: string) =>
    onChange(chosen.includes(id) ? chosen.filter((each) => each !== id) : [...chosen, id])
  return (
    <fieldset>
      <legend className="mb-0.5 text-note font-medium text-second">Recipients</legend>
      <ul className="max-h-[380px] overflow-auto border border-line bg-surface">
        {people.map((each) => (
          <li key={each.who.id}>
            <label className="flex cursor-pointer items-start gap-2 border-b border-line/60 px-3 py-1.5 has-checked:bg-plum-tint">
              <input
                type="checkbox"
                className="mt-1 accent-plum"
                checked={chosen.includes(each.who.id)}
                onChange={() => toggle(each.who.id)}
              />
              <span>
                <span className="font-medium">{each.who.name}</span>{' '}
                <span className="code text-note">{each.who.company}</span>
                <span className="block text-note text-second">
                  {each.who.job}, {each.company_name}
                  {each.outside && ', outside contact, no account needed'}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  )
}
