import { useState } from 'react'

import { isLost } from '../../../api/fetched'
import { dayText } from '../../../domain/dates'
import { Button } from '../../../ui/Button'
import { ErrorNote } from '../../../ui/Notes'
import { useKept } from '../../../ui/useKept'
import { isAsListed, tally } from './ReceivedLines'
import { ReceivedForm } from './ReceivedForm'
import { ReceivedLook } from './ReceivedLook'
import { useReceived, type Received } from './useReceived'

interface Props {
  batchId: string
  company: string
}

/** What its sender says they sent with this batch, a line each. */
export function TheirTransmittals({ batchId, company }: Props) {
  const list = useReceived(batchId)
  const begun = useKept('received', batchId).draft !== null
  const [entering, setEntering] = useState(false)
  const [shown, setShown] = useState('')
  const [changing, setChanging] = useState('')
  const rows = list.data?.lines ?? []
  const of = (id: string) => rows.find((each) => each.id === id)
  const [looked, changed] = [of(shown), of(changing)]
  if (isLost(list)) return <ErrorNote error={list.error} again={() => void list.refetch()} />
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-list">
      {rows.map((each) => (
        <Line key={each.id} one={each} onLook={() => setShown(each.id)} />
      ))}
      {(begun || !rows.length) && (
        <Button small onClick={() => setEntering(true)}>
          {begun ? 'Go on with their transmittal' : 'Enter their transmittal'}
        </Button>
      )}
      {entering && <ReceivedForm batchId={batchId} company={company} onClose={() => setEntering(false)} />}
      {looked && (
        <ReceivedLook
          one={looked}
          onClose={() => setShown('')}
          onAnother={() => {
            setShown('')
            setEntering(true)
          }}
          onChange={() => {
            setShown('')
            setChanging(looked.id)
          }}
        />
      )}
      {changed && (
        <ReceivedForm batchId={batchId} company={company} one={changed} onClose={() => setChanging('')} />
      )}
    </div>
  )
}

function Line({ one, onLook }: { one: Received; onLook: () => void }) {
  const fine = isAsListed(one.lines, one.more) && !one.faults.length
  return (
    <p className="flex min-w-0 flex-wrap items-center gap-x-2">
      <span>
        With <b className="code">{one.number}</b>
        {one.dated && ` of ${dayText(one.dated, '')}`}:{' '}
        <span className={fine ? 'text-spruce' : 'text-ochre'}>{tally(one.lines, one.more)}</span>
        {one.faults.length > 0 && <span className="text-brick">, not as it was sent</span>}
        {one.proven && <span className="text-spruce">, proven</span>}
        {one.receipt_at && <span className="text-second">, receipt sent</span>}
      </span>
      <Button small onClick={onLook} aria-label={`Look at ${one.number}`}>
        Look
      </Button>
    </p>
  )
}
