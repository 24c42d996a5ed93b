import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept, type Keep } from '../../ui/useKept'
import { useHere } from '../../ui/useHere'

type People = Schemas['People']
interface Company {
  id: string
  name: string
  code: string
  part: string
}

const NEW = 'new'
const NONE: Company = { id: '', name: '', code: '', part: '' }

const isWhole = (company: Company) =>
  company.id === NEW ? Boolean(company.name && company.code && company.part) : company.id !== ''

/** Adds the sender as an outside contact; the mail is judged again then. */
export function SenderDialog({ mail, onClose }: { mail: Schemas['MailRead']; onClose: () => void }) {
  const { project } = useSeat()
  const { line } = mail
  const people = useQuery({
    queryKey: ['people', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/projects/{project_id}/people', { params: { path: { project_id: project.id } } })),
  })
  const form = useKept('held-sender', line.id, line.from_email)
  const [name, setName] = useField(form, 'name', line.from_name === line.from_email ? '' : line.from_name)
  const [company, setCompany] = useField(form, 'company', NONE)
  const add = useAdding(mail, () => {
    form.drop()
    onClose()
  })
  const whole = isWhole(company)
  return (
    <Dialog
      title="Add its sender"
      about={`${line.from_email} becomes an outside contact: can be written to and answer by mail, and sees nothing else. The mail is judged again then.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          add.mutate({ name, company })
        }}
      >
        <TextField keep={form} label="Name" value={name} onChange={(event) => setName(event.target.value)} />
        <CompanyFields keep={form} people={people.data} company={company} onChange={setCompany} />
        <ErrorNote error={people.error ?? add.error} />
        <div className="flex items-center justify-end gap-3">
          {!whole && <span className="text-list text-second">Say for which company they work.</span>}
          <Button onClick={onClose}>Cancel</Button>
          <Button look="act" type="submit" busy={add.isPending} why={!whole && 'Say the company first.'}>
            Add and judge again
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

function useAdding(mail: Schemas['MailRead'], onDone: () => void) {
  const client = useQueryClient()
  const here = useHere()
  return useMutation({
    mutationFn: ({ name, company }: { name: string; company: Company }) => {
      const { id, ...fresh } = company
      const contact =
        id === NEW ? { name, company_id: '', company: fresh } : { name, company_id: id, company: null }
      return unwrap(
        api.POST('/api/mail/{mail_id}/sender', {
          params: { path: { mail_id: mail.line.id } },
          body: { version: mail.version, contact },
        }),
      )
    },
    onSuccess: () => here(onDone),
    onSettled: () => fetchAnew(client, ['mailbox', 'mail', 'desk', 'people']),
  })
}

interface CompanyProps {
  keep: Keep
  people: People | undefined
  company: Company
  onChange: (company: Company) => void
}

/** One that is in the project, or a new one with its code and part. */
function CompanyFields({ keep, people, company, onChange }: CompanyProps) {
  const known = (people?.companies ?? []).map((each) => ({
    code: each.id,
    words: `${each.code}  ${each.name}`,
  }))
  const parts = (people?.parts ?? []).map((each) => ({ code: each, words: each }))
  return (
    <>
      <Select
        label="Company"
        value={company.id}
        onChange={(id) => onChange({ ...company, id })}
        choices={[
          { code: '', words: 'Choose a company' },
          ...known,
          { code: NEW, words: 'Another company …' },
        ]}
      />
      {company.id === NEW && (
        <div className="grid grid-cols-1 gap-2 md:grid-cols-[2fr_1fr_1fr]">
          <TextField
            keep={keep}
            label="Its name"
            value={company.name}
            onChange={(event) => onChange({ ...company, name: event.target.value })}
          />
          <TextField
            keep={keep}
            label="Its code"
            placeholder="2 to 6 capitals"
            value={company.code}
            onChange={(event) => onChange({ ...company, code: event.target.value.toUpperCase() })}
          />
          <Select
            label="Its part"
            value={company.part}
            onChange={(part) => onChange({ ...company, part })}
            choices={[{ code: '', words: 'Choose' }, ...parts]}
          />
        </div>
      )}
    </>
  )
}
