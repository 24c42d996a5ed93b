import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { counted } from '../../domain/counted'
import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Section } from './Section'
import { sendOnce, useField, useKept } from '../../ui/useKept'

/** Keeping this project's set-up, and the starters there are. */
export function StarterSection() {
  const { project } = useSeat()
  const client = useQueryClient()
  const form = useKept('keep-starter', project.id)
  const [name, setName] = useField(form, 'name', '')
  const [purpose, setPurpose] = useField(form, 'purpose', '')
  const starters = useQuery({ queryKey: ['starters'], queryFn: () => unwrap(api.GET('/api/starters')) })
  const settle = () => client.invalidateQueries({ queryKey: ['starters'] })
  const keep = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(api.POST('/api/starters', { ...more, body: { project_id: project.id, name, purpose } })),
      ),
    onSuccess: settle,
  })
  const remove = useMutation({
    mutationFn: (id: string) =>
      unwrap(api.DELETE('/api/starters/{starter_id}', { params: { path: { starter_id: id } } })),
    onSettled: settle,
  })
  return (
    <Section
      title="Starter"
      about="A starter keeps numbers, codes, roles, fields, folders and what roles may do in them; not people or dates."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-4">
        {project.leads && (
          <form
            className="mb-5 flex max-w-[860px] flex-wrap items-end gap-3"
            onSubmit={(event) => {
              event.preventDefault()
              keep.mutate()
            }}
          >
            <TextField
              keep={form}
              label="Keep this set-up as"
              className="w-[240px]"
              required
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <TextField
              keep={form}
              label="What it is for"
              className="min-w-[160px] flex-1"
              value={purpose}
              onChange={(event) => setPurpose(event.target.value)}
            />
            <Button look="act" type="submit" busy={keep.isPending}>
              Keep the starter
            </Button>
          </form>
        )}
        <ErrorNote error={keep.error ?? remove.error ?? starters.error} />
        {starters.isPending && <Loading what="the starters" />}
        <ul className="max-w-[860px] border-t border-line">
          {starters.data?.starters.map((starter) => (
            <li key={starter.id} className="flex items-baseline gap-4 border-b border-line py-2">
              <div className="min-w-0 flex-1">
                <p className="font-semibold">{starter.name}</p>
                <p className="text-list text-second">{starter.purpose}</p>
                <p className="text-list text-second">
                  <span className="code">{starter.number_like}</span> · {counted(starter.folders, 'folder')} ·{' '}
                  {starter.shipped ? 'comes with Nod' : `kept by ${starter.made_by}`}
                </p>
              </div>
              {starter.may_remove && (
                <Button small onClick={() => remove.mutate(starter.id)}>
                  Remove
                </Button>
              )}
            </li>
          ))}
        </ul>
        <p className="mt-3 text-second">Stewards of the workspace begin new projects from a starter.</p>
      </div>
    </Section>
  )
}
