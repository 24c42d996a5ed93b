import { useNavigate } from '@tanstack/react-router'
import { useState, type Ref } from 'react'

import { hasLevel, useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { AddToSet } from './sets/AddToSet'
import { ChangeDialog } from './ChangeDialog'
import type { ColumnShown, DocumentChange, DocumentLine } from './useRegister'

interface Props {
  lines: readonly DocumentLine[]
  columns: readonly ColumnShown[]
  onUnmark: () => void
  onChanged: (undo: DocumentChange[], words: string) => void
  first: Ref<HTMLButtonElement>
}

/** The acts for what is marked. */
export function MarkedBar({ lines, columns, onUnmark, onChanged, first }: Props) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [dialog, setDialog] = useState<'change' | 'move' | 'set' | null>(null)
  const files = hasLevel(project, 'file')
  return (
    <div className="flex flex-wrap items-center gap-2 border-y border-line bg-plum-tint px-4 py-1.5">
      <span role="status" className="mr-1 font-medium">
        {lines.length} marked
      </span>
      {files && project.tools.includes('reviews') && (
        <Button
          ref={first}
          small
          look="act"
          onClick={() =>
            void navigate({ to: '/reviews/new', search: { documents: lines.map((row) => row.id).join(',') } })
          }
        >
          Start a review
        </Button>
      )}
      {files && project.tools.includes('transmittals') && (
        <Button
          small
          onClick={() =>
            void navigate({
              to: '/transmittals/new',
              search: { revisions: lines.map((row) => row.revision_id).join(',') },
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
          onDone={(undo, words) => {
            setDialog(null)
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
