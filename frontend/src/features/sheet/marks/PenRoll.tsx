import { ArrowDown, ArrowUp, Share2, Trash2, UserPlus } from 'lucide-react'
import { useRef, useState } from 'react'

import { Button, buttonLook } from '../../../ui/Button'
import { IconButton } from '../../../ui/IconButton'
import { ErrorNote } from '../../../ui/Notes'
import { KindIcon } from './KindIcon'
import type { Hand } from './useHand'
import { lookOf, rollFrom, type Pen, type Rolls, type usePens } from './usePens'

interface Props {
  rolls: Rolls
  pens: ReturnType<typeof usePens>
  inks: Record<string, string>
  hand: Hand
  onClose: () => void
}

/** All pens: one's own roll in its order, and the project's. A click takes a pen into the hand. */
export function PenRoll(props: Props) {
  const { rolls, pens, onClose } = props
  const [trouble, setTrouble] = useState<unknown>(null)
  return (
    <section
      aria-label="Pen roll"
      data-panel
      className="absolute bottom-16 left-1/2 flex max-h-[70%] w-[560px] max-w-[calc(100%-1rem)] -translate-x-1/2 flex-col border border-second bg-surface"
    >
      <ErrorNote error={trouble ?? pens.error} />
      {rolls.by && (
        <p className="border-b border-line px-3 py-1.5 text-list text-second">
          In this project every {rolls.by} has its ink; pens come in that.
        </p>
      )}
      <div className="grid min-h-0 grid-cols-2 divide-x divide-line overflow-auto">
        <Mine {...props} />
        <Shared {...props} />
      </div>
      <Away {...props} onTrouble={setTrouble} onClose={onClose} />
    </section>
  )
}

function Mine({ rolls, pens, inks, hand, onClose }: Props) {
  const [dragged, setDragged] = useState<number | null>(null)
  const { own } = rolls
  return (
    <div>
      <h2 className="border-b border-line bg-paper px-3 py-1.5 text-body font-semibold">Mine</h2>
      <ol aria-label="My pens">
        {own.map((pen, place) => (
          <li
            // By the pen, so that the keyboard stays with the one that moves.
            key={`${pen.name}/${own.slice(0, place).filter((each) => each.name === pen.name).length}`}
            draggable
            className={`flex items-center gap-1 border-b border-line/60 px-2 ${dragged === place ? 'opacity-40' : ''}`}
            onDragStart={() => setDragged(place)}
            onDragEnd={() => setDragged(null)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => {
              if (dragged !== null && dragged !== place) pens.keep(false, (now) => moved(now, dragged, place))
            }}
          >
            <span className="code w-4 text-fine text-second">{place < 9 ? place + 1 : ''}</span>
            <Take pen={pen} inks={inks} hand={hand} onTaken={onClose} />
            <PenActs pen={pen} place={place} rolls={rolls} pens={pens} />
          </li>
        ))}
      </ol>
    </div>
  )
}

interface PenActsProps extends Pick<Props, 'rolls' | 'pens'> {
  pen: Pen
  place: number
}

function PenActs({ pen, place, rolls, pens }: PenActsProps) {
  const step = (by: number) =>
    pens.keep(false, (now) => {
      const from = now.indexOf(pen)
      return from < 0 ? [...now] : moved(now, from, Math.min(now.length - 1, Math.max(0, from + by)))
    })
  return (
    <>
      <IconButton
        label={`${pen.name} up`}
        icon={<ArrowUp size={14} aria-hidden />}
        disabled={place === 0}
        onClick={() => step(-1)}
      />
      <IconButton
        label={`${pen.name} down`}
        icon={<ArrowDown size={14} aria-hidden />}
        disabled={place === rolls.own.length - 1}
        onClick={() => step(1)}
      />
      {rolls.may_share && (
        <IconButton
          label={`Share ${pen.name} with the project`}
          icon={<Share2 size={14} aria-hidden />}
          onClick={() => pens.keep(true, (now) => [...now, pen])}
        />
      )}
      <IconButton
        label={`Remove ${pen.name}`}
        icon={<Trash2 size={14} aria-hidden />}
        onClick={() => pens.keep(false, (now) => now.filter((each) => each !== pen))}
      />
    </>
  )
}

function Shared({ rolls, pens, inks, hand, onClose }: Props) {
  return (
    <div>
      <h2 className="border-b border-line bg-paper px-3 py-1.5 text-body font-semibold">The project’s</h2>
      {rolls.project.length === 0 && (
        <p className="px-3 py-2 text-list text-second">
          No pens are shared yet. Leads and controllers share theirs from the left.
        </p>
      )}
      <ol aria-label="Pens of the project">
        {rolls.project.map((pen, place) => (
          <li key={place} className="flex items-center gap-1 border-b border-line/60 px-2">
            <Take pen={pen} inks={inks} hand={hand} onTaken={onClose} />
            <IconButton
              label={`Add ${pen.name} to mine`}
              icon={<UserPlus size={14} aria-hidden />}
              onClick={() => pens.keep(false, (now) => [...now, pen])}
            />
            {rolls.may_share && (
              <IconButton
                label={`Share ${pen.name} no more`}
                icon={<Trash2 size={14} aria-hidden />}
                onClick={() => pens.keep(true, (now) => now.filter((each) => each !== pen))}
              />
            )}
          </li>
        ))}
      </ol>
    </div>
  )
}

/** The roll as a file, out and in. */
function Away({ rolls, pens, onClose, onTrouble }: Props & { onTrouble: (trouble: unknown) => void }) {
  const file = useRef<HTMLInputElement>(null)
  async function takeIn(chosen: File | undefined) {
    if (!chosen) return
    try {
      const roll = rollFrom(await chosen.text())
      pens.keep(false, () => roll)
      onTrouble(null)
    } catch {
      onTrouble(new Error(`${chosen.name} is no roll of pens.`))
    }
  }
  return (
    <footer className="flex gap-2 border-t border-line px-3 py-2">
      <a
        className={buttonLook('quiet', true)}
        download="pens.json"
        href={`data:application/json,${encodeURIComponent(JSON.stringify({ pens: rolls.own }, null, 1))}`}
      >
        Download my roll
      </a>
      <Button small onClick={() => file.current?.click()}>
        Take in a roll
      </Button>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        className="sr-only"
        aria-label="File with a roll of pens"
        onChange={(event) => void takeIn(event.target.files?.[0])}
      />
      <span className="flex-1" />
      <Button small onClick={onClose}>
        Close
      </Button>
    </footer>
  )
}

function moved(pens: readonly Pen[], from: number, to: number): Pen[] {
  const next = [...pens]
  const [pen] = next.splice(from, 1)
  if (pen) next.splice(to, 0, pen)
  return next
}

interface TakeProps {
  pen: Pen
  inks: Record<string, string>
  hand: Hand
  onTaken: () => void
}

function Take({ pen, inks, hand, onTaken }: TakeProps) {
  return (
    <button
      type="button"
      className="flex h-8 min-w-0 flex-1 items-center gap-2 text-left text-list hover:text-plum"
      onClick={() => {
        hand.take(pen)
        onTaken()
      }}
    >
      <KindIcon kind={pen.kind} symbol={pen.look?.symbol ?? ''} colour={inks[lookOf(pen).colour ?? 'red']} />
      <span className="truncate">{pen.name}</span>
      {pen.discipline && <span className="code text-fine text-second">{pen.discipline}</span>}
    </button>
  )
}
