import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { isLost } from '../../../api/fetched'
import { fetchAnew } from '../../../api/keys'
import { hasLevel, useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { DateField } from '../../../ui/DateField'
import { Select, TextField } from '../../../ui/Field'
import { HolderMark, holderWords } from '../../../ui/HolderMark'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { Day, When } from '../../../ui/Standing'
import { useHere } from '../../../ui/useHere'
import { sendOnce, useField, useKept, type Kept } from '../../../ui/useKept'
import type { DossierData } from './dossierData'

/** Who has which revision of the document, all that was ever sent of it, and what was handed over on paper. */
export function Holders({ dossier }: { dossier: DossierData }) {
  const { project } = useSeat()
  const documentId = dossier.line.id
  const found = useQuery({
    queryKey: ['holders', 'of', documentId],
    queryFn: () =>
      unwrap(
        api.GET('/api/documents/{document_id}/holders', { params: { path: { document_id: documentId } } }),
      ),
  })
  if (isLost(found)) return <ErrorNote error={found.error} again={() => void found.refetch()} />
  if (!found.data) return <Loading what="who has it" />
  const { companies, cells, sendings } = found.data
  const holding = companies.flatMap((company, at) => {
    const cell = cells[at]
    return cell && cell.state !== 'never' ? [{ company, cell }] : []
  })
  return (
    <section aria-label="Holders" className="flex w-full flex-col gap-3">
      {holding.length === 0 && <p className="text-second">It has not been sent to anybody yet.</p>}
      {holding.length > 0 && (
        <ul aria-label="Who has it" className="border-t border-line text-list">
          {holding.map(({ company, cell }) => (
            <li key={company.id} className="flex items-center gap-2 border-b border-line py-1">
              <span className="code w-12 font-semibold" title={company.name}>
                {company.code}
              </span>
              <HolderMark cell={cell} />
              <span className="min-w-0 flex-1 text-second">{holderWords(cell)}</span>
            </li>
          ))}
        </ul>
      )}
      {sendings.length > 0 && <Sendings sendings={sendings} />}
      {hasLevel(project, 'file') && project.tools.includes('transmittals') && (
        <OnPaper dossier={dossier} companies={companies} />
      )}
    </section>
  )
}

function Sendings({ sendings }: { sendings: readonly Schemas['SentOnce'][] }) {
  const [open, setOpen] = useState(false)
  return (
    <div className="text-list">
      <Button small aria-expanded={open} onClick={() => setOpen(!open)}>
        All that was sent of it
      </Button>
      {open && (
        <ul aria-label="All that was sent of it">
          {sendings.map((each, place) => (
            <li key={place} className="border-b border-line/60 py-1">
              <Sending sent={each} />
              {each.hand_over_id && <TakeBack id={each.hand_over_id} />}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

/** What was entered by mistake; it stays in the trail. */
function TakeBack({ id }: { id: string }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const back = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/hand-overs/{hand_over_id}/take-back', { params: { path: { hand_over_id: id } } }),
      ),
    onSettled: () => fetchAnew(client, ['holders', 'trail']),
  })
  if (!hasLevel(project, 'file')) return null
  return (
    <>
      {' '}
      <Button small busy={back.isPending} onClick={() => back.mutate()}>
        Take it back
      </Button>
      <ErrorNote error={back.error} />
    </>
  )
}

function Sending({ sent }: { sent: Schemas['SentOnce'] }) {
  const times = [
    ['opened', sent.opened_at],
    ['downloaded', sent.downloaded_at],
    ['acknowledged', sent.acknowledged_at],
  ] as const
  return (
    <>
      <span className="code font-semibold">{sent.revision}</span>{' '}
      {sent.number ? (
        <Link
          to="/transmittals/$transmittalId"
          params={{ transmittalId: sent.transmittal_id }}
          className="code text-plum underline"
        >
          {sent.number}
        </Link>
      ) : (
        `${sent.count} on paper`
      )}{' '}
      to {sent.who?.name ?? sent.paper} <span className="code text-second">{sent.company}</span>{' '}
      <span className="text-second">
        {sent.on ? <Day on={sent.on} /> : <When at={sent.at} />}
        {sent.copied && ', copy'}
        {times.map(
          ([words, at]) =>
            at && (
              <span key={words}>
                , {words} <When at={at} />
              </span>
            ),
        )}
      </span>
      {sent.void && <span className="ml-1 font-semibold text-brick">void</span>}
    </>
  )
}

interface PaperProps {
  dossier: DossierData
  companies: readonly Schemas['HolderCompany'][]
}

function OnPaper(props: PaperProps) {
  const [open, setOpen] = useState(false)
  if (open) return <PaperForm {...props} onClose={() => setOpen(false)} />
  return (
    <span>
      <Button onClick={() => setOpen(true)}>Handed over on paper …</Button>
    </span>
  )
}

function usePaper(documentId: string, onDone: () => void) {
  const client = useQueryClient()
  const here = useHere()
  const form = useKept('hand-over', documentId)
  const act = useMutation({
    mutationFn: (body: Schemas['HandOver']) =>
      sendOnce(form, (more) => unwrap(api.POST('/api/hand-overs', { ...more, body }))),
    onSuccess: async () => {
      form.drop()
      await fetchAnew(client, ['holders', 'trail'])
      here(onDone)
    },
  })
  return { form, act }
}

/** As the fields have it, until it is entered. */
interface Typed {
  revision: string
  company: string
  to: string
  count: string
  on: string
}

/** Who took it, when and how many; it counts as sent. */
function PaperForm({ dossier, companies, onClose }: PaperProps & { onClose: () => void }) {
  const { project } = useSeat()
  const { line } = dossier
  const { form, act } = usePaper(line.id, onClose)
  const [typed, setTyped] = useField<Typed>(form, 'typed', {
    revision: line.in_force_id || line.revision_id,
    company: companies[0]?.id ?? '',
    to: '',
    count: '1',
    on: project.today,
  })
  return (
    <form
      aria-label="Handed over on paper"
      className="flex flex-col gap-2 border border-line bg-paper p-3"
      onSubmit={(event) => {
        event.preventDefault()
        act.mutate({
          revision_id: typed.revision,
          company_id: typed.company,
          to_whom: typed.to,
          count: Number(typed.count) || 1,
          on: typed.on,
          note: '',
        })
      }}
    >
      <PaperFields
        keep={form}
        typed={typed}
        revisions={dossier.revisions}
        companies={companies}
        onChange={(part) => setTyped({ ...typed, ...part })}
      />
      <ErrorNote error={act.error} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="act"
          type="submit"
          busy={act.isPending}
          why={!typed.to.trim() && 'Say who took it first.'}
        >
          Enter it
        </Button>
      </div>
    </form>
  )
}

interface FieldsProps {
  keep: Kept
  typed: Typed
  revisions: DossierData['revisions']
  companies: PaperProps['companies']
  onChange: (part: Partial<Typed>) => void
}

function PaperFields({ keep, typed, revisions, companies, onChange }: FieldsProps) {
  return (
    <div className="grid grid-cols-2 gap-2">
      <Select
        label="Revision"
        value={typed.revision}
        onChange={(revision) => onChange({ revision })}
        choices={revisions.map((each) => ({ code: each.id, words: each.code }))}
      />
      <Select
        label="Company"
        value={typed.company}
        onChange={(company) => onChange({ company })}
        choices={companies.map((each) => ({ code: each.id, words: `${each.code} ${each.name}` }))}
      />
      <TextField
        keep={keep}
        label="Who took it"
        value={typed.to}
        onChange={(event) => onChange({ to: event.target.value })}
      />
      <TextField
        keep={keep}
        label="Copies"
        type="number"
        min={1}
        max={1000}
        value={typed.count}
        onChange={(event) => onChange({ count: event.target.value })}
      />
      <DateField keep={keep} label="On" value={typed.on} onChange={(on) => onChange({ on })} />
    </div>
  )
}
