import { useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { hasLevel, useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextField } from '../../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { Day } from '../../../ui/Standing'
import { RegisterNav } from '../RegisterNav'
import { SetSheets } from './SetSheets'
import { useSet, useSetActs, useSets, type DrawingSet } from './useSets'
import { useField, useKept } from '../../../ui/useKept'
import { DateField } from '../../../ui/DateField'

/** Drawing sets at the left, the sheets of the chosen one in their order at the right. */
export function SetsPage() {
  const { set: chosen } = useSearch({ from: '/frame/register/sets' })
  const navigate = useNavigate()
  const { project } = useSeat()
  const sets = useSets()
  const [making, setMaking] = useState(false)
  const [gone, setGone] = useState<DrawingSet | null>(null)
  const { bringBack } = useSetActs()
  const open = chosen ?? sets.data?.[0]?.id
  const one = useSet(open)
  const may = hasLevel(project, 'file')
  return (
    <section aria-label="Drawing sets" className="flex h-full flex-col">
      <RegisterNav>
        {may && (
          <Button look="act" onClick={() => setMaking(true)}>
            Make a drawing set
          </Button>
        )}
      </RegisterNav>
      {gone && (
        <div role="status" className="flex items-center gap-3 border-t border-line bg-spruce-tint px-4 py-1">
          <span>{gone.name} was taken away; its sheets stay in the register.</span>
          <Button
            small
            busy={bringBack.isPending}
            onClick={() => bringBack.mutate(gone.id, { onSuccess: () => setGone(null) })}
          >
            Undo
          </Button>
          <ErrorNote error={bringBack.error} />
        </div>
      )}
      <ErrorNote error={sets.error} again={() => void sets.refetch()} />
      {sets.isPending && <Loading what="the drawing sets" />}
      {sets.data?.length === 0 && (
        <Empty act={may && <Button onClick={() => setMaking(true)}>Make a drawing set</Button>}>
          No drawing set yet. A stage, an issue, a package: sheets in an order of their own, with a date.
        </Empty>
      )}
      {(sets.data?.length ?? 0) > 0 && (
        <div className="flex min-h-0 flex-1 border-t border-line max-md:flex-col">
          <ul
            aria-label="Sets"
            className="w-[290px] shrink-0 overflow-auto border-r border-line max-md:max-h-[30%] max-md:w-full max-md:border-r-0 max-md:border-b"
          >
            {(sets.data ?? []).map((set) => (
              <li key={set.id}>
                <button
                  type="button"
                  aria-current={set.id === open}
                  className={`flex w-full items-baseline gap-2 border-b border-line/70 px-4 py-2 text-left ${set.id === open ? 'bg-plum-tint font-semibold' : 'hover:bg-paper'}`}
                  onClick={() => void navigate({ to: '/register/sets', search: { set: set.id } })}
                >
                  <span className="min-w-0 flex-1 truncate">{set.name}</span>
                  <span className="font-normal text-second">
                    <Day on={set.on} />
                  </span>
                  <span className="w-8 text-right font-normal text-second tabular-nums">{set.sheets}</span>
                </button>
              </li>
            ))}
          </ul>
          <div className="min-w-0 flex-1">
            <ErrorNote error={one.error} />
            {one.data && <SetSheets key={one.data.id} set={one.data} onGone={setGone} />}
          </div>
        </div>
      )}
      {making && (
        <NameDialog
          onClose={() => setMaking(false)}
          onMade={(id) => void navigate({ to: '/register/sets', search: { set: id } })}
        />
      )}
    </section>
  )
}

function NameDialog({ onClose, onMade }: { onClose: () => void; onMade: (id: string) => void }) {
  const { make } = useSetActs()
  const form = useKept('drawing-set', 'new')
  const [name, setName] = useField(form, 'name', '')
  const [on, setOn] = useField(form, 'on', '')
  return (
    <Dialog
      title="Make a drawing set"
      about="Sheets are added from the register: mark them, or add a whole list."
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          make.mutate(
            { name, on },
            {
              onSuccess: (made) => {
                form.drop()
                onClose()
                onMade(made.id)
              },
            },
          )
        }}
      >
        <TextField keep={form} label="Name" value={name} onChange={(event) => setName(event.target.value)} />
        <DateField keep={form} label="Date" value={on} onChange={setOn} />
        <ErrorNote error={make.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            look="act"
            type="submit"
            busy={make.isPending}
            why={!name.trim() && 'Give it a name first.'}
          >
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
