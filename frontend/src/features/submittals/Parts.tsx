import { useState } from 'react'

import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { VerdictMark } from '../../ui/Stamp'
import { Day } from '../../ui/Standing'
import { ItemsForm, LotsForm } from './PartForms'
import type { Submittal } from './useSubmittals'

/** The items of one, each with its own verdict, and its lots, each with its own days. */
export function Parts({ submittal }: { submittal: Submittal }) {
  const [open, setOpen] = useState<'items' | 'lots' | null>(null)
  const edits = submittal.line.may.includes('edit')
  const { items, lots } = submittal
  if (!edits && !items.length && !lots.length) return null
  const close = () => setOpen(null)
  return (
    <section aria-label="Items and lots" className="flex flex-col gap-3 text-list">
      <Items items={items} />
      <Lots lots={lots} />
      {edits && (
        <div className="flex gap-2">
          <Button small onClick={() => setOpen('items')}>
            Items …
          </Button>
          <Button small onClick={() => setOpen('lots')}>
            Lots …
          </Button>
        </div>
      )}
      {open === 'items' && <ItemsForm submittal={submittal} onClose={close} />}
      {open === 'lots' && <LotsForm submittal={submittal} onClose={close} />}
    </section>
  )
}

function Items({ items }: { items: Submittal['items'] }) {
  if (!items.length) return null
  return (
    <div>
      <h3 className="mb-1 font-semibold">
        Items <span className="font-normal text-second">{items.length}</span>
      </h3>
      <ul>
        {items.map((each) => (
          <li key={each.id} className="flex items-center gap-2 border-t border-line py-1">
            <span className="flex w-7 shrink-0">{each.verdict && <VerdictMark code={each.verdict} />}</span>
            <span className="min-w-0 flex-1">
              {each.title} <span className="code text-second">{each.paragraph}</span>
            </span>
            {!each.verdict && <span className="text-second">not answered yet</span>}
            {each.verdict && each.is_open && <span className="text-second">wanted once more</span>}
          </li>
        ))}
      </ul>
    </div>
  )
}

function Lots({ lots }: { lots: Submittal['lots'] }) {
  if (!lots.length) return null
  return (
    <div>
      <h3 className="mb-1 font-semibold">
        Lots <span className="font-normal text-second">{lots.length}</span>
      </h3>
      <ul>
        {lots.map((each) => (
          <li key={each.id} className="flex flex-wrap gap-x-3 border-t border-line py-1">
            <span className="min-w-0 flex-1 font-medium">{each.name}</span>
            <LotDays lot={each} />
          </li>
        ))}
      </ul>
    </div>
  )
}

function LotDays({ lot }: { lot: Submittal['lots'][number] }) {
  if (lot.delivered_on)
    return (
      <span className="text-spruce">
        delivered <Day on={lot.delivered_on} />
      </span>
    )
  const { lead, lead_in: unit, float_days: float } = lot
  return (
    <>
      {lot.required_on && (
        <span>
          on site <Day on={lot.required_on} />
        </span>
      )}
      {lead !== null && (
        <span className="text-second">lead {counted(lead, unit === 'weeks' ? 'week' : 'working day')}</span>
      )}
      {lot.forecast_on && (
        <span className="text-second">
          forecast <Day on={lot.forecast_on} />
        </span>
      )}
      {float !== null && (
        <span className={`w-16 text-right ${float < 0 ? 'font-semibold text-brick' : ''}`}>
          {float < 0 ? `${-float} d late` : `${float} d`}
        </span>
      )}
    </>
  )
}
