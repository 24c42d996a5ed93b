import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useFolders } from '../../api/folders'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { Packs } from './Packs'
import { folderOf, type RegisterSearch } from './registerSearch'

type Revisions = Schemas['AskPack']['revisions']

/** How large it would be first; then made while one goes on; fetched here. */
export function FolderZip({ search, onClose }: { search: RegisterSearch; onClose: () => void }) {
  const client = useQueryClient()
  const [folder, setFolder] = useState(folderOf(search))
  const [revisions, setRevisions] = useState<Revisions>('in_force')
  const [asCame, setAsCame] = useState(false)
  const folders = useFolders()
  const chosen = folder || folders.data?.[0]?.id || ''
  const size = useQuery({
    queryKey: ['pack-size', chosen, revisions],
    queryFn: () =>
      unwrap(
        api.GET('/api/folders/{folder_id}/pack-size', {
          params: { path: { folder_id: chosen }, query: { revisions } },
        }),
      ),
    enabled: Boolean(chosen),
  })
  const ask = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/packs', { body: { folder_id: chosen, revisions, names_as_came: asCame } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['packs'] }),
  })
  return (
    <Dialog
      title="A folder as a ZIP"
      about="With all folders below, of what you can see there."
      open
      wide
      onClose={onClose}
    >
      <div className="flex flex-col gap-3">
        <Select
          label="Folder"
          value={chosen}
          onChange={setFolder}
          choices={(folders.data ?? []).map((each) => ({
            code: each.id,
            words: `${'\u2003'.repeat(each.depth)}${each.name}`,
          }))}
        />
        <div className="grid grid-cols-2 gap-3">
          <Select
            label="Revisions"
            value={revisions}
            onChange={(value) => setRevisions(value as Revisions)}
            choices={[
              { code: 'in_force', words: 'What is in force' },
              { code: 'latest', words: 'The latest, released or not' },
              { code: 'all', words: 'All, the superseded ones aside' },
            ]}
          />
          <Select
            label="Names and places"
            value={asCame ? 'came' : ''}
            onChange={(value) => setAsCame(value === 'came')}
            choices={[
              { code: '', words: 'By number, revision and status' },
              { code: 'came', words: 'As the files came, so that links between them hold' },
            ]}
          />
        </div>
        <ErrorNote error={ask.error ?? size.error} />
        <div className="flex items-center justify-between gap-3">
          <p role="status">
            {size.data
              ? `${size.data.files.toLocaleString('en-GB')} ${size.data.files === 1 ? 'file' : 'files'}, ${bytesText(size.data.size_bytes)}`
              : 'Counting …'}
          </p>
          <Button
            look="act"
            busy={ask.isPending || !size.data}
            why={
              size.data?.files === 0 &&
              (revisions === 'in_force'
                ? 'Nothing in this folder is in force.'
                : 'The folder holds no files.')
            }
            onClick={() => ask.mutate()}
          >
            Make the ZIP
          </Button>
        </div>
        <Packs heading="Made for you" />
      </div>
    </Dialog>
  )
}
