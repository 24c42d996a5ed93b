import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { useSetActs, useSets } from './useSets'
import { useField, useKept } from '../../../ui/useKept'

interface Props {
  /** The documents, or the view whose every document is added. */
  documents?: readonly string[]
  view?: { words: string; filters: string; total: number }
  onClose: () => void
}

/** Adds documents behind those that a drawing set has, or begins a new one with them. */
export function AddToSet({ documents, view, onClose }: Props) {
  const sets = useSets()
  const acts = useSetActs()
  const form = useKept('drawing-set', 'to add to')
  const [chosen, setChosen] = useField(form, 'chosen', '')
  const [name, setName] = useField(form, 'name', '')
  const [error, setError] = useState<unknown>(null)
  const [busy, setBusy] = useState(false)
  const count = documents?.length ?? view?.total ?? 0

  async function add() {
    setBusy(true)
    setError(null)
    try {
      const id = chosen || (await acts.make.mutateAsync({ name, on: '' })).id
      const now = await unwrap(api.GET('/api/sets/{set_id}', { params: { path: { set_id: id } } }))
      if (view)
        await acts.addByView.mutateAsync({
          id,
          version: now.version,
          words: view.words,
          filters: view.filters,
        })
      else {
        const there = now.sheets.map((sheet) => sheet.id)
        await acts.put.mutateAsync({
          id,
          version: now.version,
          documents: [...new Set([...there, ...(documents ?? [])])],
        })
      }
      form.drop()
      onClose()
    } catch (caught) {
      setError(caught)
    }
    setBusy(false)
  }

  return (
    <Dialog
      title="Add to a drawing set"
      about={`${count.toLocaleString('en-GB')} ${count === 1 ? 'document' : 'documents'}; what is in the set already stays where it is.`}
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          void add()
        }}
      >
        <Select
          label="Drawing set"
          value={chosen}
          onChange={setChosen}
          choices={[
            { code: '', words: 'A new one' },
            ...(sets.data ?? []).map((set) => ({ code: set.id, words: `${set.name} (${set.sheets})` })),
          ]}
        />
        {!chosen && (
          <TextField
            keep={form}
            label="Its name"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        )}
        <ErrorNote error={error ?? sets.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look="act"
            type="submit"
            busy={busy}
            why={!chosen && !name.trim() && 'Give the new set a name first.'}
          >
            Add
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
