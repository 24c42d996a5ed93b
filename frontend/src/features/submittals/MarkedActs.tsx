import { useState } from 'react'

import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ActDialog, type ManyAct } from './ActForms'
import type { Line } from './useSubmittals'

/** What can be done with all those that are marked, or why not. */
export function MarkedActs({ rows, onDone }: { rows: readonly Line[]; onDone: () => void }) {
  const [act, setAct] = useState<ManyAct | null>(null)
  if (!rows.length) return null
  const may = (deed: string) => rows.every((row) => row.may.includes(deed))
  const oneCompany = new Set(rows.map((row) => row.company)).size === 1
  return (
    <div
      role="toolbar"
      aria-label="With what is marked"
      className="flex flex-wrap items-center gap-2 border-b border-line bg-plum-tint px-4 py-1.5 text-list"
    >
      <span>{counted(rows.length, 'submittal')} marked</span>
      <Button
        small
        why={
          !may('ask')
            ? 'Some of them have been sent in already.'
            : !oneCompany && 'They are of several companies: ask each of its own.'
        }
        onClick={() => setAct('ask')}
      >
        Ask for them …
      </Button>
      <Button small why={!may('remind') && 'Some of them wait for nobody.'} onClick={() => setAct('remind')}>
        Remind …
      </Button>
      <Button small why={!may('edit') && 'Some of them are closed or void.'} onClick={() => setAct('edit')}>
        Change …
      </Button>
      <Button
        small
        look="stop"
        why={!may('void') && 'Some of them are closed or void.'}
        onClick={() => setAct('void')}
      >
        Void …
      </Button>
      <Button small onClick={onDone}>
        Unmark
      </Button>
      {act && (
        <ActDialog
          act={act}
          lines={rows}
          onClose={() => setAct(null)}
          onDone={() => {
            setAct(null)
            onDone()
          }}
        />
      )}
    </div>
  )
}
