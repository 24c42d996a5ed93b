import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { Button, buttonLook } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { ArrivalGrid } from './ArrivalGrid'
import { ArrivalPanel } from './ArrivalPanel'
import { CameFrom } from './CameFrom'
import { DiscardDialog, SendBackDialog } from './LeaveDialogs'
import { TheirTransmittals } from './received/TheirTransmittals'
import { RegisterWith, useRegisterWith, type With } from './RegisterWith'
import { Settled } from './Settled'
import { Toolbar } from './Toolbar'
import { OPEN, useBatch, useChangeBatch, useRegister, type Arrival, type Batch } from './useIntake'
import { useTable } from './useTable'
import { isLost } from '../../api/fetched'

interface Props {
  batchId: string
  openId: string
  onOpen: (arrivalId: string) => void
  /** More files for this batch; one that was broken off goes on where it stopped. */
  onAdd: () => void
}

/** The files of a batch with what was read and found; everything can be corrected in place. */
export function BatchTable({ batchId, openId, onOpen, onAdd }: Props) {
  const batch = useBatch(batchId)
  if (isLost(batch)) return <ErrorNote error={batch.error} again={() => void batch.refetch()} />
  if (!batch.data) return <Loading what="the batch" />
  return <Files batch={batch.data} batchId={batchId} openId={openId} onOpen={onOpen} onAdd={onAdd} />
}

type Leaving = { how: 'back' | 'discard'; arrivals: Arrival[] }

function Files({ batch, batchId, openId, onOpen, onAdd }: Props & { batch: Batch }) {
  const { line, arrivals } = batch
  const table = useTable(batchId, arrivals)
  const register = useRegister(batchId)
  const more = useRegisterWith(batchId, `From ${line.came_from}`)
  const [extras, setExtras] = useState(more.form.draft !== null)
  const [leaving, setLeaving] = useState<Leaving | null>(null)
  const opened = table.open.find((each) => each.id === openId)
  const settled = arrivals.filter((each) => !OPEN.has(each.state))
  const marked = () => table.open.filter((each) => table.marked.has(each.id))
  return (
    <div className="flex min-h-0 flex-1">
      <div className="flex min-w-0 flex-1 flex-col">
        <header className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-4 py-2">
          <div className="min-w-0 flex-1 max-md:basis-full">
            <CameFrom batch={batch} />
            <TheirTransmittals batchId={batchId} company={batch.came.company} />
            <p className="text-list text-second">
              Taken in by {line.arrived_by.name} <span className="code">{line.arrived_by.company}</span>,{' '}
              <When at={line.arrived_at} time /> · <Counts open={table.open} />
              {line.left_out > 0 && `, ${line.left_out} of the system’s own left out`}
            </p>
          </div>
          {line.has_tree && <KeepTree batch={batch} />}
          <Button small onClick={onAdd}>
            Add files
          </Button>
          {table.open.length > 0 && (
            <Button small aria-expanded={extras} onClick={() => setExtras(!extras)}>
              {told(more.asked)}
            </Button>
          )}
          <RegisterButton
            open={table.open}
            busy={register.isPending}
            missing={more.missing}
            onRegister={() =>
              register.mutate({ arrivals: table.open, more: more.asked }, { onSuccess: more.form.drop })
            }
          />
        </header>
        {batch.unsure_readers.map((words) => (
          <p key={words} className="border-b border-line bg-ochre-tint px-4 py-1 text-list text-ochre">
            {words} Its zones can be set right under <i>Read title blocks</i>.
          </p>
        ))}
        {extras && table.open.length > 0 && <RegisterWith fields={more} />}
        <ErrorNote error={register.error ?? table.error} />
        {register.data && <Outcomes done={register.data} />}
        {table.undo && (
          <p
            role="status"
            className="flex items-center gap-3 border-b border-line bg-slate-tint px-4 py-1 text-slate"
          >
            {table.undo.words}.
            <Button small busy={table.busy} onClick={table.takeBack}>
              Undo
            </Button>
            <Button small onClick={table.forgetUndo}>
              Keep
            </Button>
          </p>
        )}
        {table.open.length > 0 && (
          <>
            <Toolbar
              table={table}
              onSendBack={() => setLeaving({ how: 'back', arrivals: marked() })}
              onDiscard={() => setLeaving({ how: 'discard', arrivals: marked() })}
            >
              <Link
                to="/intake/$batchId/reader"
                params={{ batchId }}
                search={{ arrival: openId || table.rows.find((each) => each.can_look)?.id }}
                className={buttonLook('quiet', true)}
              >
                Read title blocks
              </Link>
            </Toolbar>
            <ArrivalGrid table={table} openId={openId} onOpen={(id) => onOpen(id === openId ? '' : id)} />
          </>
        )}
        {arrivals.length === 0 && (
          <p className="px-4 py-6 text-second">No file of this batch has come through yet.</p>
        )}
        {settled.length > 0 && <Settled arrivals={settled} alone={table.open.length === 0} />}
      </div>
      {opened && (
        <ArrivalPanel
          arrival={opened}
          table={table}
          onClose={() => onOpen('')}
          onSendBack={(each) => setLeaving({ how: 'back', arrivals: [each] })}
          onDiscard={(each) => setLeaving({ how: 'discard', arrivals: [each] })}
        />
      )}
      {leaving?.how === 'back' && (
        <SendBackDialog batchId={batchId} arrivals={leaving.arrivals} onClose={() => setLeaving(null)} />
      )}
      {leaving?.how === 'discard' && (
        <DiscardDialog batchId={batchId} arrivals={leaving.arrivals} onClose={() => setLeaving(null)} />
      )}
    </div>
  )
}

function tally(open: readonly Arrival[]) {
  const of = (weights: string[]) =>
    open.filter((each) => !each.looking && weights.includes(each.weight)).length
  return {
    looking: open.filter((each) => each.looking && !each.given_up.length).length,
    givenUp: open.filter((each) => each.given_up.length).length,
    ready: of(['look', 'fine']),
    same: of(['same']),
    stopped: of(['stop']),
  }
}

function Counts({ open }: { open: readonly Arrival[] }) {
  const { looking, ready, same, stopped, givenUp } = tally(open)
  return (
    <>
      {ready} ready, {same} already there, {stopped} stopped
      {looking > 0 && `, ${looking} being looked into`}
      {givenUp > 0 && `, ${givenUp} that Nod gave up reading`}
    </>
  )
}

/** What is registered along with the files, on the button that opens it. */
function told(asked: With): string {
  const { people = [], roles = [], companies = [] } = asked.tell ?? {}
  const tell = people.length + roles.length + companies.length
  const parts = [
    ...(asked.set_id || asked.new_set ? ['into a set'] : []),
    ...(asked.note ? ['with a note'] : []),
    ...(tell ? [`telling ${tell}`] : []),
  ]
  return parts.join(', ') || 'Set, note, tell …'
}

interface RegisterProps {
  open: Arrival[]
  busy: boolean
  missing: string
  onRegister: () => void
}

function RegisterButton({ open, busy, missing, onRegister }: RegisterProps) {
  if (!open.length) return null
  const { looking, ready, same, stopped: faulty, givenUp } = tally(open)
  const stopped = faulty + givenUp
  // What is held already stays so: there is nothing left to do but to answer it.
  if (!looking && !ready && !same && open.every((each) => each.state === 'held')) return null
  const words = ready
    ? `Register ${ready}${stopped ? `, hold ${stopped}` : ''}`
    : stopped
      ? `Hold ${stopped}`
      : 'Settle'
  return (
    <span className="flex items-center gap-2">
      {missing && <span className="text-list text-ochre">{missing}</span>}
      <Button look="act" busy={looking > 0 || busy} why={missing} onClick={onRegister}>
        {looking > 0 ? `Looking into ${looking} …` : words}
      </Button>
    </span>
  )
}

/** Folders that came with the files can be made in the register. */
function KeepTree({ batch }: { batch: Batch }) {
  const change = useChangeBatch(batch.line.id)
  const folders = new Set(batch.arrivals.map((each) => each.folder_path).filter(Boolean))
  return (
    <Checkbox
      label={`Keep the ${folders.size} folder${folders.size === 1 ? '' : 's'} they came in`}
      hint={[...folders].join('\n')}
      checked={batch.line.keep_tree}
      disabled={change.isPending}
      onChange={(keep) => change.mutate({ folder_id: batch.line.folder_id, keep_tree: keep })}
    />
  )
}

function Outcomes({ done }: { done: Schemas['Registered'] }) {
  const count = (result: string) => done.outcomes.filter((each) => each.result === result).length
  return (
    <p role="status" className="border-b border-line bg-spruce-tint px-4 py-1.5 text-spruce">
      {count('registered')} registered{done.put_into && `, in ${done.put_into}`}, {count('already_there')}{' '}
      already there, {count('held')} held with a reason
      {done.told > 0 && `; ${done.told} ${done.told === 1 ? 'person' : 'people'} told`}.
    </p>
  )
}
