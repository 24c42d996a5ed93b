import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { ChooseMany, type Choosable } from '../../ui/ChooseMany'
import { DateField } from '../../ui/DateField'
import { Select, TextArea, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { useTellable, type Tellable } from './useTellable'

export type With = Omit<Schemas['RegisterBatch'], 'seen'>

const NEW = 'new'

/** What is registered along with the files: a set they go into, a note, and who is told at once. */
export function useRegisterWith(batchId: string, words: string) {
  const form = useKept('register-with', batchId, words)
  const [set, setSet] = useField(form, 'set', '')
  const [newSet, setNewSet] = useField(form, 'newSet', '')
  const [setOn, setSetOn] = useField(form, 'setOn', '')
  const [note, setNote] = useField(form, 'note', '')
  const [tell, setTell] = useField<string[]>(form, 'tell', [])
  const of = (kind: string) =>
    tell.filter((each) => each.startsWith(`${kind}:`)).map((each) => each.slice(kind.length + 1))
  const asked: With = {
    note,
    tell: { people: of('person'), roles: of('role'), companies: of('company') },
    set_id: set === NEW ? '' : set,
    new_set: set === NEW ? newSet : '',
    set_on: set === NEW && setOn ? setOn : null,
  }
  /** Why it cannot be registered like this; empty where it can. */
  const missing = set === NEW && !newSet.trim() ? 'Give the new drawing set a name.' : ''
  return {
    form,
    asked,
    missing,
    set,
    setSet,
    newSet,
    setNewSet,
    setOn,
    setSetOn,
    note,
    setNote,
    tell,
    setTell,
  }
}

export function RegisterWith({ fields }: { fields: ReturnType<typeof useRegisterWith> }) {
  const { form, set, setSet, newSet, setNewSet, setOn, setSetOn, note, setNote, tell, setTell } = fields
  const { project } = useSeat()
  const tellable = useTellable()
  const sets = useQuery({
    queryKey: ['sets', project.id],
    queryFn: () => unwrap(api.GET('/api/sets', { params: { query: { project_id: project.id } } })),
  })
  return (
    <section
      aria-label="Registered with"
      className="grid gap-x-4 gap-y-2 border-b border-line bg-surface px-4 py-2 min-[900px]:grid-cols-3"
    >
      <div className="flex flex-col gap-2">
        <Select
          label="Into a drawing set"
          value={set}
          onChange={setSet}
          choices={[
            { code: '', words: 'none' },
            { code: NEW, words: 'a new one …' },
            ...(sets.data ?? []).map((each) => ({ code: each.id, words: each.name })),
          ]}
        />
        {set === NEW && (
          <div className="grid grid-cols-[1fr_130px] gap-2">
            <TextField
              keep={form}
              label="Its name"
              value={newSet}
              onChange={(event) => setNewSet(event.target.value)}
            />
            <DateField keep={form} label="Its date" value={setOn} onChange={setSetOn} />
          </div>
        )}
      </div>
      <TextArea
        keep={form}
        label="Note, kept with each revision"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <ChooseMany
        label="Tell at once, whatever they follow"
        placeholder="A person, role or company"
        choices={choicesOf(tellable.data)}
        chosen={tell}
        onChange={setTell}
      />
      <ErrorNote error={sets.error ?? tellable.error} />
    </section>
  )
}

function choicesOf(tellable: Tellable | undefined): Choosable[] {
  if (!tellable) return []
  const group = (kind: string, of: Tellable['roles']) =>
    of.map((each) => ({
      key: `${kind}:${each.key}`,
      words: each.name,
      note: `${kind}, ${each.people} ${each.people === 1 ? 'person' : 'people'}`,
    }))
  return [
    ...group('role', tellable.roles),
    ...group('company', tellable.companies),
    ...tellable.people.map((each) => ({ key: `person:${each.id}`, words: each.name, note: each.company })),
  ]
}
