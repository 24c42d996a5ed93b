import { useState } from 'react'

import { Button } from '../../ui/Button'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { ArrivalRow } from './ArrivalRow'
import { DiscardDialog } from './DiscardDialog'
import { useBatch, useCorrect, useRegister, type Arrival } from './useIntake'

const OPEN = new Set(['waiting', 'held'])

/** The files of a batch with what was read and found; everything can be corrected in place. */
export function BatchTable({ batchId }: { batchId: string }) {
  const batch = useBatch(batchId)
  const correct = useCorrect(batchId)
  const register = useRegister(batchId)
  const [discarding, setDiscarding] = useState<Arrival | null>(null)
  if (batch.error) return <ErrorNote error={batch.error} again={() => void batch.refetch()} />
  if (!batch.data) return <Loading what="the batch" />
  const { line, arrivals } = batch.data
  const open = arrivals.filter((each) => OPEN.has(each.state))
  const settled = arrivals.filter((each) => !OPEN.has(each.state))
  const looking = open.filter((each) => each.looking).length
  const ready = open.filter(
    (each) => !each.looking && each.weight !== 'stop' && each.weight !== 'same',
  ).length
  const same = open.filter((each) => each.weight === 'same').length
  const stopped = open.filter((each) => each.weight === 'stop').length
  const outcomes = register.data?.outcomes
  return (
    <>
      <header className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line px-4 py-2.5">
        <div className="min-w-0 flex-1">
          <h1 className="text-[16px] font-semibold">From {line.came_from}</h1>
          <p className="text-list text-second">
            Taken in by {line.arrived_by.name} <span className="code">{line.arrived_by.company}</span>,{' '}
            <When at={line.arrived_at} time /> · {ready} ready, {same} already there, {stopped} stopped
            {looking > 0 && `, ${looking} being looked into`}
          </p>
        </div>
        {open.length > 0 && (
          <Button
            look="act"
            disabled={looking > 0 || register.isPending}
            onClick={() => register.mutate(open)}
          >
            {looking > 0
              ? `Looking into ${looking} …`
              : ready > 0
                ? `Register ${ready}${stopped ? `, hold ${stopped}` : ''}`
                : stopped
                  ? `Hold ${stopped}`
                  : 'Settle'}
          </Button>
        )}
      </header>
      <ErrorNote error={register.error ?? correct.error} />
      {outcomes && (
        <p role="status" className="border-b border-line bg-spruce-tint px-4 py-1.5 text-spruce">
          {count(outcomes, 'registered')} registered, {count(outcomes, 'already_there')} already there,{' '}
          {count(outcomes, 'held')} held with a reason.
        </p>
      )}
      <div className="min-h-0 flex-1 overflow-auto">
        <table className="w-full table-fixed border-collapse text-list">
          <thead className="sticky top-0 z-10 bg-surface text-left text-[12px] text-second">
            <tr className="border-b border-second/40">
              <th className="w-[66px] px-3 py-1.5 font-semibold">Finding</th>
              <th className="w-[218px] px-2 font-semibold">Number</th>
              <th className="w-[62px] px-2 font-semibold">Rev</th>
              <th className="w-[58px] px-2 font-semibold">Status</th>
              <th className="w-[200px] px-2 font-semibold">Title</th>
              <th className="px-2 font-semibold">What was found</th>
              <th className="w-[76px] px-2 font-semibold">
                <span className="sr-only">Acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {open.map((arrival) => (
              <ArrivalRow
                key={arrival.id}
                arrival={arrival}
                onCorrect={(field, value) => correct.mutate({ arrival, field, value })}
                onDiscard={() => setDiscarding(arrival)}
              />
            ))}
            {settled.map((arrival) => (
              <SettledRow key={arrival.id} arrival={arrival} />
            ))}
          </tbody>
        </table>
        {arrivals.length === 0 && (
          <p className="px-4 py-6 text-second">No file of this batch has come through yet.</p>
        )}
      </div>
      {discarding && (
        <DiscardDialog batchId={batchId} arrival={discarding} onClose={() => setDiscarding(null)} />
      )}
    </>
  )
}

function count(outcomes: { result: string }[], result: string): number {
  return outcomes.filter((each) => each.result === result).length
}

const LEFT: Record<string, { words: string; look: string }> = {
  registered: { words: 'Registered', look: 'text-spruce' },
  already_there: { words: 'Already there', look: 'text-slate' },
  discarded: { words: 'Discarded', look: 'text-second' },
}

/** A file that has left Intake. */
function SettledRow({ arrival }: { arrival: Arrival }) {
  const { words, look } = LEFT[arrival.state] ?? { words: arrival.state, look: '' }
  return (
    <tr className="border-b border-line/60 align-top text-second">
      <td className={`px-3 py-1.5 font-semibold ${look}`} colSpan={1}>
        {words}
      </td>
      <td className="code truncate px-2 py-1.5">{arrival.number}</td>
      <td className="code px-2 py-1.5">{arrival.revision}</td>
      <td className="code px-2 py-1.5">{arrival.status}</td>
      <td className="truncate px-2 py-1.5">{arrival.title}</td>
      <td className="px-2 py-1.5" colSpan={2}>
        {arrival.reason}
      </td>
    </tr>
  )
}
