import { useState } from 'react'

import { download } from '../../api/download'
import { Button } from '../../ui/Button'
import { isGoing, nameOf, Progress, usePacks } from './Packs'

/** A long list that I asked for in this page: how far it is, then its file. */
export function ListsMade({ ids }: { ids: readonly string[] }) {
  const packs = usePacks()
  const [gone, setGone] = useState<readonly string[]>([])
  const shown = packs.data?.filter((pack) => ids.includes(pack.id) && !gone.includes(pack.id)) ?? []
  return shown.map((pack) => (
    <div
      key={pack.id}
      role="status"
      className="flex items-center gap-3 border-y border-line bg-slate-tint px-4 py-1 text-slate"
    >
      <span>{nameOf(pack)}</span>
      <span className="w-[200px]">
        {isGoing(pack) ? (
          <Progress pack={pack} />
        ) : (
          pack.fault || (pack.state === 'ready' ? 'is ready' : 'stopped')
        )}
      </span>
      {pack.state === 'ready' && (
        <Button small look="act" onClick={() => download(`/api/packs/${pack.id}/download`)}>
          Download
        </Button>
      )}
      <Button small onClick={() => setGone([...gone, pack.id])}>
        Put aside
      </Button>
      <span className="text-note">Found again under Take away.</span>
    </div>
  ))
}
