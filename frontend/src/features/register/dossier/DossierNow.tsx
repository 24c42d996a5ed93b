import { Link } from '@tanstack/react-router'
import { type ReactNode } from 'react'

import { download } from '../../../api/download'
import { useLookedAt } from '../../../api/lookedAt'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Following } from '../../../ui/Following'
import { LettersAbout } from '../../../ui/LettersAbout'
import { LinkedMarks } from '../../../ui/LinkedMarks'
import { Choice, Input } from '../../../ui/Input'
import { ErrorNote } from '../../../ui/Notes'
import { VerdictMark } from '../../../ui/Stamp'
import { Day, Due, When } from '../../../ui/Standing'
import type { DossierData } from './dossierData'
import { DocumentActs } from './DocumentActs'
import { InSessions } from './InSessions'
import { useChangeDocuments } from '../useRegister'
import { useField, useKept } from '../../../ui/useKept'
import { DateField } from '../../../ui/DateField'

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-second">{name}</dt>
      <dd>{children}</dd>
    </>
  )
}

/** How the document stands: its sheet, its acts, what is known of it. */
export function DossierNow({ dossier }: { dossier: DossierData }) {
  const { line } = dossier
  const sheet = line.kind === 'sheet'
  useLookedAt('document', line.id)
  return (
    <div className="flex flex-col gap-3">
      {sheet && (
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: line.revision_id }}
          className="block border border-line bg-white hover:border-plum"
          aria-label={`Open the sheet ${line.number} ${line.revision}`}
        >
          <img
            src={`/api/sheets/${line.revision_id}/thumbnail`}
            alt={`Sheet ${line.number}, small`}
            className="h-[190px] w-full object-contain"
          />
        </Link>
      )}
      <div className="flex flex-wrap gap-1.5">
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: line.revision_id }}
          className="inline-flex h-8 items-center rounded-[3px] border border-plum bg-plum px-3 text-list font-medium text-on-plum"
        >
          {sheet ? 'Open the sheet' : 'Open the file'}
        </Link>
        <Button onClick={() => download(`/api/revisions/${line.revision_id}/download`)}>Download</Button>
        <DocumentActs dossier={dossier} />
      </div>
      <Standing dossier={dossier} />
      <About dossier={dossier} />
      <Fields dossier={dossier} />
      <LinkedMarks kind="document" target={line.id} />
      <LettersAbout kind="document" target={line.id} words="this document" />
      <InSessions documentId={line.id} />
      <div className="flex flex-col gap-1.5 border-t border-line pt-3">
        <Following kind="document" target={line.id} words="this document" />
        <Following kind="folder" target={line.folder_id} words="its folder" />
      </div>
    </div>
  )
}

const LIST = 'grid grid-cols-[110px_1fr] gap-x-3 gap-y-1 text-list'

function Standing({ dossier }: { dossier: DossierData }) {
  const { project } = useSeat()
  const { line } = dossier
  const latest = dossier.revisions.find((revision) => revision.id === line.revision_id)
  return (
    <dl className={LIST}>
      <Fact name={line.is_copy ? 'Lies here' : 'Latest'}>
        <span className="code font-bold">{line.revision}</span>
        {latest && (
          <span className="text-second">
            , filed <When at={latest.filed_at} /> by {latest.filed_by.name}
          </span>
        )}
      </Fact>
      <Fact name="In force">
        <InForce dossier={dossier} />
      </Fact>
      <Fact name="Status">
        <span className="code">{line.status}</span> {project.statuses[line.status]}
      </Fact>
      {line.purpose && <Fact name="Purpose">{line.purpose}</Fact>}
      <Fact name="Verdict">
        {line.verdict ? <VerdictMark code={line.verdict} spelled /> : 'none on this revision'}
      </Fact>
      <Fact name="With">{line.standing.with_whom || 'nobody'}</Fact>
      {line.standing.since_at && (
        <Fact name="Since">
          <When at={line.standing.since_at} time />
        </Fact>
      )}
      {line.standing.due_on && (
        <Fact name="Due">
          <Due standing={line.standing} />
        </Fact>
      )}
      {!line.withdrawn && !line.is_copy && (
        <Fact name="Next revision">
          <span className="code">{dossier.next_revisions.join(' or ')}</span>
        </Fact>
      )}
    </dl>
  )
}

/** What people work from now; quiet where it is the latest. */
function InForce({ dossier }: { dossier: DossierData }) {
  const { line } = dossier
  const inForce = dossier.revisions.find((revision) => revision.id === line.in_force_id)
  return (
    <>
      {inForce ? (
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: inForce.id }}
          className={`code font-bold underline ${line.release === 'newer' ? 'text-ochre' : 'text-plum'}`}
        >
          {inForce.code}
        </Link>
      ) : line.release === 'passed' ? (
        <span className="font-semibold text-brick">another revision, which does not lie in this folder</span>
      ) : (
        'nothing yet'
      )}
      {inForce?.released_at && (
        <span className="text-second">
          , {inForce.status} since <When at={inForce.released_at} />
        </span>
      )}
      {line.release === 'newer' && <span className="text-second">; {line.revision} is not released</span>}
    </>
  )
}

function About({ dossier }: { dossier: DossierData }) {
  const { project } = useSeat()
  const { line } = dossier
  return (
    <dl className={`${LIST} border-t border-line pt-3`}>
      <Fact name="Folder">{dossier.folder}</Fact>
      {line.also_in.length > 0 && (
        <Fact name="Also in">
          <AlsoIn copies={line.also_in} />
        </Fact>
      )}
      <Fact name="Came from">
        {[line.came_person, line.came_from, line.came_by].filter(Boolean).join(', ')}
        {line.file_kinds.includes(',') && <span className="code">, {line.file_kinds}</span>}
      </Fact>
      {line.sets.length > 0 && <Fact name="Drawing sets">{line.sets.join(', ')}</Fact>}
      <Fact name="Discipline">{project.disciplines[line.discipline] ?? line.discipline}</Fact>
      <Fact name="Company">
        <span className="code">{dossier.originator}</span>
      </Fact>
      <Fact name="Sheet">
        {dossier.sheet_size || 'unknown'}
        {line.scale && <span className="code">, {line.scale}</span>}
      </Fact>
      {dossier.former_numbers.map((former) => (
        <Fact key={former.number} name="Before">
          <span className="code">{former.number}</span>
          <span className="text-second">
            {' '}
            until <When at={former.until_at} />: {former.why}
          </span>
        </Fact>
      ))}
    </dl>
  )
}

/** Copies that reviews put into folders, each with the revision that lies there. */
function AlsoIn({ copies }: { copies: DossierData['line']['also_in'] }) {
  return (
    <ul>
      {copies.map((copy) => (
        <li key={copy.document_id}>
          {copy.folder}:{' '}
          <Link
            to="/register"
            search={{ document: copy.document_id }}
            className="code text-plum underline"
            aria-label={`${copy.revision} in ${copy.folder}`}
          >
            {copy.revision}
          </Link>
          <span className="text-second">
            , by {copy.why}, <When at={copy.put_at} />
          </span>
          {copy.taken_out && <span className="text-second">; taken out</span>}
          {copy.passed && <span className="font-semibold text-brick">; superseded</span>}
        </li>
      ))}
    </ul>
  )
}

/** The project's own fields; changed in place by those who may. */
function Fields({ dossier }: { dossier: DossierData }) {
  const change = useChangeDocuments()
  if (dossier.fields.length === 0) return null
  const may = dossier.may.includes('change')
  const { line } = dossier
  const put = (key: string, value: string, done: () => void) =>
    change.mutate([{ id: line.id, version: line.version, values: { [key]: value } }], { onSuccess: done })
  return (
    <section aria-label="Fields" className="border-t border-line pt-3">
      <dl className={LIST}>
        {dossier.fields.map((field) => (
          <Fact key={field.key} name={field.name}>
            {may ? (
              <FieldInput
                of={line.id}
                key={field.value}
                field={field}
                busy={change.isPending}
                onPut={(value, done) => put(field.key, value, done)}
              />
            ) : field.kind === 'date' ? (
              <Day on={field.value} />
            ) : (
              field.value || <span className="text-second">nothing</span>
            )}
          </Fact>
        ))}
      </dl>
      <ErrorNote error={change.error} />
    </section>
  )
}

interface InputProps {
  of: string
  field: DossierData['fields'][number]
  busy: boolean
  onPut: (value: string, done: () => void) => void
}

const WIDTH = 'w-full max-w-[220px]'

function FieldInput({ of, field, busy, onPut }: InputProps) {
  const form = useKept('document-field', `${of} ${field.key}`, field.name)
  const [value, setValue] = useField(form, 'value', field.value)
  const leave = () => value !== field.value && onPut(value, form.drop)
  const choices = field.kind === 'yes_no' ? ['yes', 'no'] : field.choices
  if (choices.length > 0)
    return (
      <Choice
        small
        aria-label={field.name}
        className={WIDTH}
        disabled={busy}
        value={value}
        onChange={(event) => onPut(event.target.value, form.drop)}
      >
        <option value="">nothing</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </Choice>
    )
  if (field.kind === 'date')
    return (
      <DateField
        keep={form}
        small
        hideLabel
        label={field.name}
        className={WIDTH}
        value={value}
        onChange={setValue}
        onBlur={leave}
      />
    )
  return (
    <Input
      keep={form}
      small
      aria-label={field.name}
      className={WIDTH}
      type={field.kind === 'number' ? 'number' : 'text'}
      step="any"
      value={value}
      onChange={(event) => setValue(event.target.value)}
      onBlur={leave}
      onKeyDown={(event) => {
        if (event.key === 'Enter') leave()
        if (event.key === 'Escape') setValue(field.value)
      }}
    />
  )
}
