import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { When } from '../../ui/Standing'
import { SendAgainDialog } from './SendAgainDialog'

type Transmittal = Schemas['Transmittal']
type Recipient = Schemas['RecipientShown']

/** To whom it went, and when each thing happened; what came back says why, and can be sent again. */
export function Recipients({ transmittal }: { transmittal: Transmittal }) {
  const [again, setAgain] = useState<Recipient | null>(null)
  return (
    <section aria-label="Recipients">
      <h3 className="mb-1 text-body font-semibold">Recipients</h3>
      {transmittal.recipients
        .filter((each) => each.bounced_at)
        .map((each) => (
          <Back
            key={each.who.id}
            recipient={each}
            onAgain={transmittal.may_send_again ? () => setAgain(each) : undefined}
          />
        ))}
      <div data-wide className="relative overflow-x-auto">
        <table className="w-full min-w-[560px] text-list [&_td]:pr-3">
          <thead className="border-b border-second/40 text-left text-note text-second">
            <tr>
              <th className="py-1 font-semibold">Who</th>
              <th className="font-semibold">Mailed</th>
              <th className="font-semibold">Opened</th>
              <th className="font-semibold">Downloaded</th>
              <th className="font-semibold">Acknowledged</th>
            </tr>
          </thead>
          <tbody>
            {transmittal.recipients.map((each) => (
              <Row key={each.who.id} recipient={each} documents={transmittal.documents.length} />
            ))}
          </tbody>
        </table>
      </div>
      {again && (
        <SendAgainDialog
          transmittalId={transmittal.line.id}
          recipient={again}
          onClose={() => setAgain(null)}
        />
      )}
    </section>
  )
}

function Row({ recipient, documents }: { recipient: Recipient; documents: number }) {
  const { who, outside, files_taken: taken } = recipient
  return (
    <tr className="border-b border-line/60">
      <td className="py-1.5 pr-2">
        <span className="font-medium">{who.name}</span>{' '}
        {recipient.copied && <span className="text-second">copy, </span>}
        <span className="code text-second">{who.company}</span>
        {outside && <span className="text-second"> outside contact</span>}
        {recipient.link_closed && <span className="block text-note text-ochre">{recipient.link_closed}</span>}
        {recipient.acknowledged_note && (
          <span className="block border-l-2 border-line pl-2 whitespace-pre-line">
            “{recipient.acknowledged_note}”
          </span>
        )}
      </td>
      {recipient.receipt ? (
        <>
          <Cell at={recipient.mailed_at} />
          <Cell at={recipient.opened_at} />
          <Cell
            at={recipient.downloaded_at}
            none={taken.length > 0 && !recipient.downloaded_at}
            how={taken.length > 0 ? `${taken.length} of ${documents} one by one` : ''}
          />
          <Cell
            at={recipient.acknowledged_at}
            good
            how={recipient.acknowledged_how === 'mail' ? 'by mail' : ''}
          />
        </>
      ) : (
        <td colSpan={4} className="text-second">
          their times are for them and the sender
        </td>
      )}
    </tr>
  )
}

/** Above the table, which may be wider than the window. */
function Back({ recipient, onAgain }: { recipient: Recipient; onAgain: (() => void) | undefined }) {
  return (
    <div className="mb-2 flex flex-wrap items-center justify-between gap-2 bg-brick-tint px-2 py-1 text-list">
      <p className="min-w-0 break-words text-brick">
        The mail to {recipient.email} came back <When at={recipient.bounced_at} time />:{' '}
        {recipient.bounced_why}.
      </p>
      {onAgain && (
        <Button small onClick={onAgain}>
          Another address, send again …
        </Button>
      )}
    </div>
  )
}

interface CellProps {
  at: string | null
  good?: boolean
  how?: string
  /** `how` says it all. */
  none?: boolean
}

function Cell({ at, good = false, how = '', none = false }: CellProps) {
  return (
    <td className={good && at ? 'font-semibold text-spruce' : ''}>
      {at ? <When at={at} time /> : !none && <span className="text-second">not yet</span>}
      {how && <span className="block text-note font-normal">{how}</span>}
    </td>
  )
}
