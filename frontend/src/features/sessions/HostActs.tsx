import { useState } from 'react'

import type { Session } from '../../api/session'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { CloseDialog } from './CloseDialog'
import { TimesDialog } from './TimesDialog'
import { useSessionActs } from './useSessions'

/** What its host does with it, and whoever runs the project. */
export function HostActs({ session }: { session: Session }) {
  const acts = useSessionActs(session.line.id)
  const [dialog, setDialog] = useState<'close' | 'times' | 'again' | null>(null)
  const may = (act: string) => session.may.includes(act)
  if (!session.hosts) return null
  return (
    <div className="flex flex-wrap items-center gap-2">
      {may('open') && (
        <Button look="act" busy={acts.open.isPending} onClick={() => acts.open.mutate(session.version)}>
          Open it now
        </Button>
      )}
      {may('close') && <Button onClick={() => setDialog('close')}>Close the session …</Button>}
      {may('change') && <Button onClick={() => setDialog('times')}>Name, time, host …</Button>}
      {may('open again') && <Button onClick={() => setDialog('again')}>Open it again …</Button>}
      <ErrorNote error={acts.open.error} />
      {dialog === 'close' && <CloseDialog session={session} onClose={() => setDialog(null)} />}
      {(dialog === 'times' || dialog === 'again') && (
        <TimesDialog session={session} again={dialog === 'again'} onClose={() => setDialog(null)} />
      )}
    </div>
  )
}
