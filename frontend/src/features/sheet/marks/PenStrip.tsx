import {
  Maximize,
  Minus,
  MousePointer2,
  PanelRight,
  PenTool,
  Plus,
  Redo2,
  RotateCw,
  Ruler,
  Undo2,
} from 'lucide-react'
import type { ReactNode } from 'react'

import { KindIcon } from './KindIcon'
import type { Acts } from './useActs'
import type { Hand } from './useHand'
import { lookOf, type Pen } from './usePens'

interface Props {
  pens: readonly Pen[]
  inks: Record<string, string>
  hand: Hand
  acts: Acts
  mayMark: boolean
  onFit: () => void
  onTurn: () => void
  onZoom: (factor: number) => void
  listOpen: boolean
  onList: () => void
  rollOpen: boolean
  onRoll: () => void
  measuring: boolean
  onMeasure: () => void
}

/** Pens as a narrow strip at the lower edge, where a hand rests. */
export function PenStrip({ pens, inks, hand, acts, mayMark, ...on }: Props) {
  const more = hand.pen && !pens.slice(0, 9).includes(hand.pen) ? hand.pen : null
  return (
    <div
      role="toolbar"
      aria-label="Pens"
      data-panel
      className="absolute bottom-3 left-1/2 flex max-w-[calc(100%-1rem)] -translate-x-1/2 items-stretch border border-second bg-surface"
    >
      {mayMark && (
        <>
          <Tool pressed={!hand.pen} label="Hand" keyName="" onClick={() => hand.take(null)}>
            <MousePointer2 size={17} aria-hidden />
          </Tool>
          {pens.slice(0, 9).map((pen, place) => (
            <Tool
              key={place}
              pressed={hand.pen === pen}
              label={pen.name}
              keyName={String(place + 1)}
              onClick={() => hand.take(pen)}
            >
              <KindIcon
                kind={pen.kind}
                symbol={pen.look?.symbol ?? ''}
                colour={inks[lookOf(pen).colour ?? 'red']}
              />
            </Tool>
          ))}
          {more && (
            <Tool pressed label={more.name} keyName="" onClick={() => hand.take(null)}>
              <KindIcon
                kind={more.kind}
                symbol={more.look?.symbol ?? ''}
                colour={inks[lookOf(more).colour ?? 'red']}
              />
            </Tool>
          )}
          <Tool pressed={on.rollOpen} label="Pen roll" keyName="" onClick={on.onRoll}>
            <PenTool size={17} aria-hidden />
          </Tool>
          <Rule />
          <Tool label="Undo" keyName="" title="Undo (Ctrl Z)" disabled={!acts.canUndo} onClick={acts.undo}>
            <Undo2 size={17} aria-hidden />
          </Tool>
          <Tool
            label="Redo"
            keyName=""
            title="Do it again (Ctrl Y)"
            disabled={!acts.canRedo}
            onClick={acts.redo}
          >
            <Redo2 size={17} aria-hidden />
          </Tool>
          <Rule />
        </>
      )}
      <Tool pressed={on.measuring} label="Measure" keyName="m" onClick={on.onMeasure}>
        <Ruler size={17} aria-hidden />
      </Tool>
      <Rule />
      <Tool label="Farther" keyName="" title="Farther (−)" onClick={() => on.onZoom(1 / 1.4)}>
        <Minus size={17} aria-hidden />
      </Tool>
      <Tool label="Nearer" keyName="" title="Nearer (+)" onClick={() => on.onZoom(1.4)}>
        <Plus size={17} aria-hidden />
      </Tool>
      <Tool label="Turn" keyName="r" onClick={on.onTurn}>
        <RotateCw size={17} aria-hidden />
      </Tool>
      <Tool label="Fit" keyName="f" onClick={on.onFit}>
        <Maximize size={17} aria-hidden />
      </Tool>
      <Rule />
      <Tool pressed={on.listOpen} label="Marks" keyName="" onClick={on.onList}>
        <PanelRight size={17} aria-hidden />
      </Tool>
    </div>
  )
}

function Rule() {
  return <span aria-hidden className="my-1 w-px bg-line" />
}

interface ToolProps {
  label: string
  keyName: string
  title?: string
  pressed?: boolean
  disabled?: boolean
  onClick: () => void
  children: ReactNode
}

/** A sign with its key; the one in the hand says its name. */
function Tool({ label, keyName, title, pressed, disabled, onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      title={title ?? (keyName ? `${label} (${keyName})` : label)}
      disabled={disabled}
      onClick={onClick}
      className="flex min-w-9 items-center justify-center gap-1 px-1.5 py-1.5 text-list hover:bg-paper disabled:opacity-35 aria-pressed:bg-plum-tint aria-pressed:text-plum"
    >
      {children}
      <span className={pressed ? 'max-w-[130px] truncate' : 'sr-only'}>{label}</span>
      {keyName && (
        <kbd aria-hidden className="code text-[10.5px] text-second">
          {keyName}
        </kbd>
      )}
    </button>
  )
}
