import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useFolders } from '../../api/folders'
import { useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'
import { TryAgain } from '../../ui/GivenUp'
import { ErrorNote, ProgressBar } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import type { RegisterSearch } from './registerSearch'

type Pack = Schemas['PackShown']

function folderOf(search: RegisterSearch): string {
  const filter = search.filters?.find(([column, op]) => column === 'folder' && op === 'is')
  return filter?.[2] ?? ''
}

/** How large it would be first; then made while one goes on; fetched here. */
export function FolderZip({ search, onClose }: { search: RegisterSearch; onClose: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const [folder, setFolder] = useState(folderOf(search))
  const [every, setEvery] = useState(false)
  const [asCame, setAsCame] = useState(false)
  const folders = useFolders()
  const chosen = folder || folders.data?.[0]?.id || ''
  const size = useQuery({
    queryKey: ['pack-size', chosen, every],
    queryFn: () =>
      unwrap(
        api.GET('/api/folders/{folder_id}/pack-size', {
          params: { path: { folder_id: chosen }, query: { every_revision: every } },
        }),
      ),
    enabled: Boolean(chosen),
  })
  const packs = useQuery({
    queryKey: ['packs', project.id],
    queryFn: () => unwrap(api.GET('/api/packs', { params: { query: { project_id: project.id } } })),
  })
  const ask = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/packs', { body: { folder_id: chosen, every_revision: every, names_as_came: asCame } }),
      ),
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
            value={every ? 'every' : ''}
            onChange={(value) => setEvery(value === 'every')}
            choices={[
              { code: '', words: 'The current ones' },
              { code: 'every', words: 'All, the superseded ones aside' },
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
          <Button look="act" disabled={!size.data?.files || ask.isPending} onClick={() => ask.mutate()}>
            Make the ZIP
          </Button>
        </div>
        {(packs.data ?? []).length > 0 && (
          <section aria-label="Your ZIPs">
            <h3 className="mb-1 text-note font-medium text-second">Your ZIPs, kept for seven days</h3>
            <ul>
              {(packs.data ?? []).map((pack) => (
                <PackLine key={pack.id} pack={pack} />
              ))}
            </ul>
          </section>
        )}
      </div>
    </Dialog>
  )
}

const WORDS: Record<string, string> = {
  waiting: 'waits its turn',
  stopped: 'stopped',
  put_away: 'put away',
  failed: 'failed',
}

function PackLine({ pack }: { pack: Pack }) {
  const client = useQueryClient()
  const stop = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/packs/{pack_id}/stop', { params: { path: { pack_id: pack.id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['packs'] }),
  })
  const going = pack.state === 'waiting' || pack.state === 'making'
  return (
    <li className="flex items-center gap-3 border-t border-line py-1.5">
      <span className="min-w-0 flex-1 truncate">
        {pack.folder}
        {pack.every_revision && <span className="text-second">, all revisions</span>}
      </span>
      <span className="text-second">
        <When at={pack.asked_at} time />
      </span>
      {pack.state === 'making' ? (
        <span className="w-[150px]">
          <ProgressBar done={pack.done} of={pack.files} label={`ZIP of ${pack.folder}`} />
          <span className="text-note text-second">
            {pack.done} of {pack.files} files
          </span>
        </span>
      ) : (
        <span className="w-[150px] text-second">
          {(pack.given_up && 'given up') || pack.fault || WORDS[pack.state] || bytesText(pack.size_bytes)}
        </span>
      )}
      {pack.given_up && <TryAgain work={pack.given_up} />}
      {going && (
        <Button small onClick={() => stop.mutate()}>
          Stop
        </Button>
      )}
      {pack.state === 'ready' && (
        <Button small look="act" onClick={() => download(`/api/packs/${pack.id}/download`)}>
          Download
        </Button>
      )}
    </li>
  )
}
