import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { TryAgain } from '../../ui/GivenUp'
import { ErrorNote, ProgressBar } from '../../ui/Notes'
import { When } from '../../ui/Standing'

type Pack = Schemas['PackShown']

/** ZIPs and long lists that I had made. */
export function usePacks() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['packs', project.id],
    queryFn: () => unwrap(api.GET('/api/packs', { params: { query: { project_id: project.id } } })),
  })
}

export const isGoing = (pack: Pack) => pack.state === 'waiting' || pack.state === 'making'

/** What is made and what was, with the one act for each. */
export function Packs({ heading }: { heading: string }) {
  const packs = usePacks()
  if (!packs.data?.length) return <ErrorNote error={packs.error} />
  return (
    <section aria-label={heading}>
      <h3 className="mb-1 text-note font-medium text-second">{heading}, kept for seven days</h3>
      <ul>
        {packs.data.map((pack) => (
          <PackLine key={pack.id} pack={pack} />
        ))}
      </ul>
    </section>
  )
}

const WORDS: Record<string, string> = {
  waiting: 'waits its turn',
  stopped: 'stopped',
  put_away: 'put away',
  failed: 'failed',
}

export function nameOf(pack: Pack): string {
  return pack.what === 'folder' ? `${pack.folder} as ZIP` : `Register as ${pack.what.toUpperCase()}`
}

const REVISIONS: Record<string, string> = { in_force: 'in force', latest: 'the latest', all: 'all revisions' }

function PackLine({ pack }: { pack: Pack }) {
  const client = useQueryClient()
  const stop = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/packs/{pack_id}/stop', { params: { path: { pack_id: pack.id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['packs'] }),
  })
  return (
    <li className="flex items-center gap-3 border-t border-line py-1.5">
      <span className="min-w-0 flex-1 truncate">
        {nameOf(pack)}
        {pack.what === 'folder' && <span className="text-second">, {REVISIONS[pack.revisions]}</span>}
      </span>
      <span className="text-second">
        <When at={pack.asked_at} time />
      </span>
      <span className="w-[150px] text-second">
        {pack.state === 'making' ? <Progress pack={pack} /> : standsAt(pack)}
      </span>
      {pack.given_up && <TryAgain work={pack.given_up} />}
      {isGoing(pack) && (
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

function standsAt(pack: Pack): string {
  return (pack.given_up && 'given up') || pack.fault || WORDS[pack.state] || bytesText(pack.size_bytes)
}

export function Progress({ pack }: { pack: Pack }) {
  const many = (count: number) => count.toLocaleString('en-GB')
  return (
    <>
      <ProgressBar done={pack.done} of={pack.files} label={nameOf(pack)} />
      <span className="text-note">
        {many(pack.done)} of {many(pack.files)} {pack.what === 'folder' ? 'files' : 'lines'}
      </span>
    </>
  )
}
