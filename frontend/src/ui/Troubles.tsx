import { useSyncExternalStore } from 'react'

import { onTrouble, tellTrouble, troubleNow } from '../api/troubles'
import { Button } from './Button'
import { ErrorNote } from './Notes'

/** What went wrong with a download, until it is read. */
export function Troubles() {
  const trouble = useSyncExternalStore(onTrouble, troubleNow)
  if (!trouble) return null
  return (
    <div className="fixed bottom-4 left-1/2 z-[60] flex w-[520px] max-w-[calc(100vw-32px)] -translate-x-1/2 items-stretch border border-brick bg-surface">
      <div className="min-w-0 flex-1">
        <ErrorNote error={trouble} />
      </div>
      <Button small className="m-2 self-center" onClick={() => tellTrouble(null)}>
        Good
      </Button>
    </div>
  )
}
