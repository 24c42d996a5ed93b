import { useNavigate } from '@tanstack/react-router'
import { useState, type Ref } from 'react'

import { hasLevel, useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { idsForAddress } from '../../ui/chosen'
import { ErrorNote } from '../../ui/Notes'
import { AddToSet } from './sets/AddToSet'
import { ChangeDialog } from './ChangeDialog'
import type { Marked } from './markedLines'
import type { ColumnShown, DocumentChange } from './useRegister'

interface Props {
  lines: readonly Marked[]
  /** How many the list has, and marking them all. */
  total: number
  onAll: () => Promise<void>
  columns: readonly ColumnShown[]
  onUnmark: () => void
  onChanged: (undo: DocumentChange[], words: string) => void
  first: Ref<HTMLButtonElement>
}

/** The acts for what is marked. */
export function MarkedBar({ lines, columns, total, onAll, onUnmark, onChanged, first }: Props) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [dialog, setDialog] = useState<'change' | 'move' | 'set' | null>(null)
  const files = hasLevel(project, 'file')
  return (
    <div className="flex flex-wrap items-center gap-2 border-y border-line bg-plum-tint px-4 py-1.5">
      <span role="status" className="mr-1 font-medium">
        {lines.length.toLocaleString('en-GB')} marked
      </span>
      {lines.length < total && <MarkAll total={total} onAll={onAll} />}
      {files && project.tools.includes('reviews') && (
        <Button
          ref={first}
          small
          look="act"
          onClick={() =>
            void navigate({
              to: '/reviews/new',
              search: { documents: idsForAddress(lines.map((row) => row.id)) },
            })
          }
        >
          Start a review
        </Button>
      )}
      {files && project.tools.includes('sessions') && (
        <Button
          small
          onClick={() =>
            void navigate({
              to: '/sessions/new',
              search: { revisions: idsForAddress(lines.map((row) => row.revision_id)) },
            })
          }
        >
          Make a session
        </Button>
      )}
      {files && project.tools.includes('transmittals') && (
        <Button
          small
          onClick={() =>
            void navigate({
              to: '/transmittals/new',
              search: { revisions: idsForAddress(lines.map((row) => row.revision_id)) },
            })
          }
        >
          Send out
        </Button>
      )}
      {files && (
        <>
          <Button small onClick={() => setDialog('change')}>
            Change a column
          </Button>
          <Button small onClick={() => setDialog('set')}>
            Add to a drawing set
          </Button>
        </>
      )}
      {hasLevel(project, 'keep') && (
        <Button small onClick={() => setDialog('move')}>
          Move
        </Button>
      )}
      <Button small onClick={onUnmark}>
        Unmark all
      </Button>
      {(dialog === 'change' || dialog === 'move') && (
        <ChangeDialog
          lines={lines}
          columns={columns}
          {...(dialog === 'move' ? { column: 'folder' } : {})}
          onDone={(undo, words, failed) => {
            // What stopped it is told where it was asked for.
            if (!failed) setDialog(null)
            onChanged(undo, words)
          }}
          onClose={() => setDialog(null)}
        />
      )}
      {dialog === 'set' && (
        <AddToSet documents={lines.map((row) => row.id)} onClose={() => setDialog(null)} />
      )}
    </div>
  )
}

/** Not what is loaded alone: every document that the filters leave. */
function MarkAll({ total, onAll }: { total: number; onAll: () => Promise<void> }) {
  const [error, setError] = useState<unknown>(null)
  const [busy, setBusy] = useState(false)
  return (
    <>
      <Button
        small
        busy={busy}
        onClick={() => {
          setBusy(true)
          setError(null)
          void onAll()
            .catch(setError)
            .finally(() => setBusy(false))
        }}
      >
        {busy ? 'Marking …' : `Mark all ${total.toLocaleString('en-GB')} of this list`}
      </Button>
      {error !== null && <ErrorNote error={error} />}
    </>
  )
}
