import { Trash2 } from 'lucide-react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useFolders } from '../../api/folders'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Select, TextField } from '../../ui/Field'
import { Empty } from '../../ui/Notes'
import { IconButton } from '../../ui/IconButton'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'
import { useNewLine } from '../../ui/useNewLine'

type Field = Schemas['TypedField']

/** The project's own fields of documents. */
export function FieldsSection() {
  return <WithSetup what="the fields" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft<Field[]>('Fields', setup.fields, setup.version)
  const save = useSave(draft, (fields, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/fields', {
        params: { path: { project_id: project.id } },
        body: { version, fields },
      }),
    ),
  )
  const folders = useFolders()
  const fields = draft.value
  const change = (place: number, part: Partial<Field>) =>
    draft.change(fields.map((each, at) => (at === place ? { ...each, ...part } : each)))
  const { list, added } = useNewLine<HTMLUListElement>()
  const add = () => {
    added()
    draft.change([...fields, { id: '', folder_id: '', name: '', kind: 'text', choices: [] }])
  }
  return (
    <Section
      title="Fields"
      about="Typed fields that documents have beside number, title and status: columns of the register, and filters."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        {fields.length === 0 && (
          <Empty act={<Button onClick={add}>Add a field</Button>}>
            No fields of its own yet. A package, a fire compartment, a date of need: whatever this project
            asks of every document.
          </Empty>
        )}
        <ul ref={list} className="max-w-[980px]">
          {fields.map((field, place) => (
            <li key={place} className="flex flex-wrap items-end gap-3 border-b border-line/60 py-2">
              <TextField
                keep={draft.kept}
                label="Name"
                className="w-[220px]"
                value={field.name}
                onChange={(event) => change(place, { name: event.target.value })}
              />
              <Select
                label="Kind"
                className="w-[150px]"
                value={field.kind}
                onChange={(kind) => change(place, { kind })}
                choices={setup.field_kinds}
              />
              <Select
                label="For"
                className="w-[190px]"
                value={field.folder_id}
                onChange={(folder_id) => change(place, { folder_id })}
                choices={[
                  { code: '', words: 'the whole project' },
                  ...(folders.data ?? []).map((each) => ({
                    code: each.id,
                    words: `${'\u2003'.repeat(each.depth)}${each.name}`,
                  })),
                ]}
              />
              {field.kind === 'choice' && (
                <TextField
                  keep={draft.kept}
                  label="Choices, with commas between"
                  className="min-w-0 flex-1"
                  value={field.choices.join(',')}
                  onChange={(event) => change(place, { choices: event.target.value.split(',') })}
                />
              )}
              <span className="pb-1">
                <IconButton
                  label={`Take the field ${field.name} away`}
                  onClick={() => draft.change(fields.filter((_, at) => at !== place))}
                  icon={<Trash2 size={15} />}
                />
              </span>
            </li>
          ))}
        </ul>
        {fields.length > 0 && (
          <Button small className="mt-3" onClick={add}>
            Add a field
          </Button>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
