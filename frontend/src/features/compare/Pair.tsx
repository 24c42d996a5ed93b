import { Link, useNavigate } from '@tanstack/react-router'

import { counted } from '../../domain/counted'
import type { Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { BareChoice } from '../../ui/Input'
import { SHOWN, type Asked, type Shown } from './asked'
import { OtherSheet } from './OtherSheet'
import type { Picking } from './usePicking'
import type { LaidOver } from './useLaidOver'

type Sheet = Schemas['Sheet']

const HATCHED = 'repeating-linear-gradient(135deg, #B5502E 0 2px, #fffdf8 2px 4px)'
const WORDS: Record<Shown, string> = { overlay: 'Overlay', beside: 'Beside', slider: 'Slider' }

interface Props {
  laid: LaidOver
  asked: Asked
  shown: Shown
  picking: Picking
  onAsk: (change: Asked) => void
}

/** Which two sheets, how they are shown, and how one is laid over the other. */
export function Pair({ laid, asked, shown, picking, onAsk }: Props) {
  const navigate = useNavigate()
  const { before, after } = laid
  const go = (first: string, second: string) =>
    void navigate({
      to: '/compare/$before/$after',
      params: { before: first, after: second },
      search: { shown: asked.shown, apart: asked.apart },
    })
  const heading = (
    <h1 className="sr-only">
      {before.number} {before.revision} compared with {after.number} {after.revision}
    </h1>
  )
  // While places are picked the sheets are what counts: the panel covers as little of them as it can.
  if (picking.picking)
    return (
      <section
        aria-label="Compared"
        data-panel
        className="absolute top-3 left-3 z-10 w-[330px] border border-second bg-surface text-list"
      >
        {heading}
        <Way laid={laid} picking={picking} onAsk={onAsk} />
      </section>
    )
  return (
    <section
      aria-label="Compared"
      data-panel
      className="absolute top-3 left-3 z-10 max-h-[calc(100%-24px)] w-[330px] overflow-auto border border-second bg-surface text-list"
    >
      {heading}
      <Side
        sheet={before}
        page={laid.before_page}
        onPage={(page) => onAsk({ before_page: page || undefined, places: undefined })}
        name="First"
        sign={<span aria-hidden className="size-3 shrink-0" style={{ background: HATCHED }} />}
        onPick={(id) => go(id, after.revision_id)}
      />
      <Side
        sheet={after}
        page={laid.after_page}
        onPage={(page) => onAsk({ after_page: page || undefined, places: undefined })}
        name="Second"
        sign={<span aria-hidden className="size-3 shrink-0 bg-[#007C89]" />}
        onPick={(id) => go(before.revision_id, id)}
      />
      <div className="flex gap-1.5 border-t border-line px-2.5 py-1.5">
        <Button small onClick={() => go(after.revision_id, before.revision_id)}>
          Swap
        </Button>
        <div role="group" aria-label="Shown as" className="flex flex-1 justify-end">
          {SHOWN.map((each) => (
            <button
              key={each}
              type="button"
              aria-pressed={shown === each}
              className="border border-line px-2 py-0.5 text-note font-medium -ml-px first:ml-0 hover:border-second aria-pressed:border-plum aria-pressed:bg-plum-tint aria-pressed:text-plum"
              onClick={() => onAsk({ shown: each === 'overlay' ? undefined : each })}
            >
              {WORDS[each]}
            </button>
          ))}
        </div>
      </div>
      {shown === 'beside' && (
        <div className="border-t border-line px-2.5 py-1.5">
          <Checkbox
            label="Move together"
            checked={!asked.apart}
            onChange={(together) => onAsk({ apart: !together || undefined })}
          />
        </div>
      )}
      <Way laid={laid} picking={picking} onAsk={onAsk} />
      <OtherSheet
        label="Lay another sheet under the second"
        onPick={(revisionId) => go(revisionId, after.revision_id)}
      />
    </section>
  )
}

interface SideProps {
  sheet: Sheet
  page: number
  onPage: (page: number) => void
  name: string
  sign: React.ReactNode
  onPick: (revisionId: string) => void
}

function Side({ sheet, page, onPage, name, sign, onPick }: SideProps) {
  return (
    <div className="border-b border-line px-2.5 py-1.5">
      <div className="flex items-center gap-2">
        {sign}
        <span className="text-second">{name}</span>
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: sheet.revision_id }}
          className="code min-w-0 flex-1 truncate text-plum underline"
        >
          {sheet.number}
        </Link>
        <BareChoice
          aria-label={`Revision of the ${name.toLowerCase()}`}
          value={sheet.revision_id}
          className="code font-bold"
          onChange={(event) => onPick(event.target.value)}
        >
          {sheet.revisions.map((revision) => (
            <option key={revision.id} value={revision.id}>
              {revision.code}
            </option>
          ))}
        </BareChoice>
      </div>
      <p className="truncate">{sheet.title}</p>
      {sheet.pages.length > 1 && (
        <BareChoice
          aria-label={`Page of the ${name.toLowerCase()}`}
          value={page}
          onChange={(event) => onPage(Number(event.target.value))}
        >
          {sheet.pages.map((_, place) => (
            <option key={place} value={place}>
              page {place + 1} of {sheet.pages.length}
            </option>
          ))}
        </BareChoice>
      )}
    </div>
  )
}

interface WayProps {
  laid: LaidOver
  picking: Picking
  onAsk: (change: Asked) => void
}

/** How the first is laid over the second: found, or by places that somebody picks. */
function Way({ laid, picking, onAsk }: WayProps) {
  if (picking.picking)
    return (
      <div className="border-t border-line px-2.5 py-1.5">
        <p role="status">
          {picking.waiting
            ? 'Now the same place in the second, at the right.'
            : picking.pairs.length === 3
              ? 'Three places are picked.'
              : `Show a place in the first, at the left${picking.pairs.length ? ', or lay it by what is picked' : ''}.`}
        </p>
        <div className="mt-1 flex gap-1.5">
          <Button
            small
            look="act"
            why={!picking.enough && 'Pick the same two places on both first.'}
            onClick={() => {
              onAsk({ places: picking.text() })
              picking.stop()
            }}
          >
            Lay by {counted(picking.pairs.length, 'place')}
          </Button>
          <Button small onClick={picking.stop}>
            Drop
          </Button>
        </div>
      </div>
    )
  return (
    <div className="border-t border-line px-2.5 py-1.5">
      <p>{wayOf(laid)}</p>
      {laid.unlike && (
        <p className="font-medium text-ochre">
          <span aria-hidden>△ </span>
          Nearly all differs. If these show the same, pick places that both have.
        </p>
      )}
      <div className="mt-1 flex gap-1.5">
        <Button small onClick={picking.begin}>
          Pick places
        </Button>
        {laid.off_mm !== null && (
          <Button small onClick={() => onAsk({ places: undefined })}>
            Let Nod lay it
          </Button>
        )}
      </div>
    </div>
  )
}

function wayOf({ moved: [a, b, , , e, f], is_moved, off_mm }: LaidOver): string {
  if (off_mm !== null) return `Laid by picked places, which agree to ${off_mm.toFixed(2)} mm.`
  if (!is_moved) return 'Both lie on each other as they are.'
  const turn = (Math.atan2(b, a) * 180) / Math.PI
  const scale = Math.hypot(a, b)
  const parts = [
    Math.abs(turn) > 0.005 && `turned by ${turn.toFixed(2)}°`,
    Math.abs(scale - 1) > 0.0005 && `scaled to ${(scale * 100).toFixed(1)} %`,
    `moved by ${Math.hypot(e, f).toFixed(1)} mm`,
  ].filter(Boolean)
  return `The first is ${parts.join(', ')}.`
}
