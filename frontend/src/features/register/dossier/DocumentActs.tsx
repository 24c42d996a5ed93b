import { DropdownMenu } from 'radix-ui'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { ActDialog } from './ActDialog'
import { ChangeDialog } from '../ChangeDialog'
import type { DossierData } from './dossierData'
import { NewRevision } from './NewRevision'
import { useColumns } from '../useRegister'

const ACTS: [string, string][] = [
  ['check_out', 'Check out …'],
  ['put_back', 'Put back unchanged …'],
  ['break_check_out', 'Break the check-out …'],
  ['change', 'Change a column …'],
  ['move', 'Move …'],
  ['rename', 'Rename its number …'],
  ['withdraw', 'Withdraw …'],
  ['bring_back', 'Bring back into the register …'],
]
const ACTS_ON_COPY: [string, string][] = [
  ['withdraw', 'Take it out of this folder …'],
  ['bring_back', 'Put it back into this folder …'],
]
const ITEM = 'cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint'

/** What may be done with the document as it stands; the server says which. */
export function DocumentActs({ dossier }: { dossier: DossierData }) {
  const [act, setAct] = useState('')
  const columns = useColumns()
  const acts = dossier.line.is_copy ? ACTS_ON_COPY : ACTS
  const open = acts.filter(([key]) => dossier.may.includes(key))
  const mine = dossier.may.includes('put_back')
  const navigate = useNavigate()
  const { project } = useSeat()
  const mayReview =
    dossier.may.includes('change') && !dossier.line.withdrawn && project.tools.includes('reviews')
  const close = () => setAct('')
  return (
    <>
      {dossier.may.includes('revise') && (
        <Button onClick={() => setAct('revise')}>{mine ? 'Check in' : 'New revision'}</Button>
      )}
      {mayReview && (
        <Button onClick={() => void navigate({ to: '/reviews/new', search: { documents: dossier.line.id } })}>
          Start a review
        </Button>
      )}
      {open.length > 0 && (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <Button aria-label="More acts">More</Button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="end"
              sideOffset={4}
              className="z-30 w-[240px] border border-second bg-surface py-1"
            >
              {open.map(([key, words]) => (
                <DropdownMenu.Item key={key} className={ITEM} onSelect={() => setAct(key)}>
                  {words}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      {act === 'revise' && <NewRevision dossier={dossier} onClose={close} />}
      {(act === 'move' || act === 'change') && columns.data && (
        <ChangeDialog
          lines={[dossier.line]}
          columns={columns.data.columns}
          {...(act === 'move' ? { column: 'folder' } : {})}
          onDone={close}
          onClose={close}
        />
      )}
      {act !== '' && !['revise', 'move', 'change'].includes(act) && (
        <ActDialog act={act} dossier={dossier} onClose={close} />
      )}
    </>
  )
}
