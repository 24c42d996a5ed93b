import { X } from 'lucide-react'

import { counted } from '../../../domain/counted'
import type { Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { IconButton } from '../../../ui/IconButton'
import { useFolderActs } from './useAccess'
import { useField, useKept } from '../../../ui/useKept'

type Folder = Schemas['FolderShown']

interface Props {
  folder: Folder
  folders: Folder[]
  onClose: () => void
}

/** One folder: make another in it, rename, move, remove. */
export function FolderPanel({ folder, folders, onClose }: Props) {
  const { make, rename, move, remove } = useFolderActs()
  const form = useKept('access-folder', folder.id, folder.name)
  const [fresh, setFresh] = useField(form, 'fresh', '')
  const [name, setName] = useField(form, 'name', folder.name)
  const [target, setTarget] = useField(form, 'target', folder.parent_id ?? '')
  const inside = below(folders, folder.id)
  const places = folders.filter((each) => each.id !== folder.id && !inside.has(each.id))
  return (
    <aside
      aria-label="Folder"
      className="flex w-[300px] shrink-0 flex-col gap-4 border-l border-line bg-surface px-4 py-3 max-md:w-full max-md:border-t max-md:border-l-0"
    >
      <header className="flex items-start justify-between">
        <div>
          <h2 className="font-semibold">{folder.name}</h2>
          <p className="text-list text-second">
            {counted(folder.documents, 'document')} in it, {counted(inside.size, 'folder')} below
          </p>
        </div>
        <IconButton label="Shut the folder" icon={<X size={16} />} onClick={onClose} />
      </header>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          make.mutate({ parent_id: folder.id, name: fresh }, { onSuccess: () => setFresh('') })
        }}
      >
        <TextField
          keep={form}
          label="Make a folder in it"
          // The panel opens because of what the person just did; the keyboard goes on in it.
          // eslint-disable-next-line jsx-a11y/no-autofocus
          autoFocus
          className="min-w-0 flex-1"
          required
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
        />
        <Button type="submit" busy={make.isPending}>
          Make
        </Button>
      </form>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          rename.mutate({ id: folder.id, name })
        }}
      >
        <TextField
          keep={form}
          label="Name"
          className="min-w-0 flex-1"
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" busy={rename.isPending} why={name === folder.name && 'The name is as it was.'}>
          Rename
        </Button>
      </form>
      {folder.parent_id && (
        <>
          <div className="flex items-end gap-2">
            <Select
              label="It is in"
              className="min-w-0 flex-1"
              value={target}
              onChange={setTarget}
              choices={places.map((each) => ({
                code: each.id,
                words: `${'\u2003'.repeat(each.depth)}${each.name}`,
              }))}
            />
            <Button
              busy={move.isPending}
              why={target === folder.parent_id && 'It is in that folder already.'}
              onClick={() => move.mutate({ id: folder.id, parent_id: target })}
            >
              Move
            </Button>
          </div>
          <p className="-mt-2 text-list text-second">
            What is in it moves with it. What it inherits is then what the new place has.
          </p>
          <Button
            look="stop"
            className="self-start"
            busy={remove.isPending}
            onClick={() => remove.mutate(folder.id, { onSuccess: onClose })}
          >
            Remove the empty folder
          </Button>
        </>
      )}
      <ErrorNote error={make.error ?? rename.error ?? move.error ?? remove.error} />
    </aside>
  )
}

function below(folders: Folder[], id: string): ReadonlySet<string> {
  const found = new Set<string>()
  for (const each of folders)
    if (each.parent_id && (each.parent_id === id || found.has(each.parent_id))) found.add(each.id)
  return found
}
