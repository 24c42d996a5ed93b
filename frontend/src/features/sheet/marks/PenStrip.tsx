import {
  Maximize,
  Minus,
  MousePointer2,
  PanelRight,
  Pencil,
  PenLine,
  PenTool,
  Plus,
  Redo2,
  RotateCw,
  Ruler,
  Undo2,
} from 'lucide-react'
import { useState, type ReactNode } from 'react'

import { useNarrow } from '../../../ui/useNarrow'
import { KindIcon } from './KindIcon'
import { useSheet } from '../sheetContext'
import { setRoom } from '../room/roomState'
import { lookOf, type Pen } from './usePens'
import { readersWords } from './useReaders'

/** Pens as a narrow strip at the lower edge, where a hand rests; on a phone one row with a drawer above it. */
export function PenStrip() {
  return useNarrow() ? <NarrowStrip /> : <WideStrip />
}

const STRIP = 'items-stretch border border-second bg-surface'

function WideStrip() {
  const { sheet, room } = useSheet()
  return (
    <div
      role="toolbar"
      aria-label="Pens"
      data-panel
      data-room={room ? '' : undefined}
      className={`group/strip absolute bottom-3 left-1/2 flex w-max max-w-[calc(100%-1rem)] -translate-x-1/2 overflow-x-auto ${STRIP}`}
    >
      {sheet.may_mark && (
        <>
          <InkSwitch />
          <Pens />
          <Rule />
          <Steps />
          <Rule />
        </>
      )}
      <MeasureTool />
      <Rule />
      <Looking />
      <Rule />
      <MarksTool />
    </div>
  )
}

/** What a thumb needs lies in the row; the pens and the rest in a drawer. */
function NarrowStrip() {
  const { sheet, hand } = useSheet()
  const [open, setOpen] = useState(false)
  return (
    <div data-panel className="absolute right-2 bottom-3 left-2 flex flex-col gap-1">
      {open && (
        <div
          role="toolbar"
          aria-label="More pens"
          className={`flex max-h-[40vh] flex-wrap overflow-y-auto p-1 ${STRIP}`}
          // A pen that was taken is for the sheet.
          onClick={() => setOpen(false)}
          onKeyDown={() => undefined}
        >
          {sheet.may_mark && <Pens />}
          <MeasureTool />
          <Looking />
        </div>
      )}
      <div role="toolbar" aria-label="Pens" className={`flex justify-between ${STRIP}`}>
        <MarksTool />
        {sheet.may_mark && <InkSwitch />}
        {sheet.may_mark && <Steps />}
        {hand.pen && (
          <Tool pressed label={hand.pen.name} keyName="" onClick={() => hand.take(null)}>
            <PenIcon pen={hand.pen} />
          </Tool>
        )}
        <Tool
          pressed={open}
          label={sheet.may_mark ? 'Pens and more' : 'More'}
          keyName=""
          onClick={() => setOpen(!open)}
        >
          <PenTool size={17} aria-hidden />
        </Tool>
      </div>
    </div>
  )
}

/** In a session: whether what is drawn is ink for others at once, or pencil for oneself. */
function InkSwitch() {
  const { room, marks } = useSheet()
  if (!room?.open) return null
  const inked = room.ink && marks.readers.known
  const words = inked ? 'In ink' : 'In pencil'
  const help = inked
    ? `What you draw is there at once, for ${readersWords(marks.readers.readers)}, for good (p)`
    : 'What you draw is yours alone until you ink it (p)'
  return (
    <button
      type="button"
      aria-pressed={inked}
      title={help}
      onClick={() => setRoom({ ink: !room.ink })}
      className="flex min-h-9 shrink-0 items-center gap-1.5 border-r border-line px-2 text-list font-semibold hover:bg-paper aria-pressed:text-plum max-md:min-h-11"
    >
      {inked ? <PenLine size={16} aria-hidden /> : <Pencil size={16} aria-hidden />}
      {words}
    </button>
  )
}

function MeasureTool() {
  const { panes } = useSheet()
  return (
    <Tool
      pressed={panes.beside === 'measure'}
      label="Measure"
      keyName="m"
      onClick={() => panes.flip('measure')}
    >
      <Ruler size={17} aria-hidden />
    </Tool>
  )
}

function MarksTool() {
  const { panes } = useSheet()
  return (
    <Tool pressed={panes.list} label="Marks" keyName="" onClick={() => panes.setList(!panes.list)}>
      <PanelRight size={17} aria-hidden />
    </Tool>
  )
}

function Pens() {
  const { hand, pens, panes, wordsOnly } = useSheet()
  if (wordsOnly)
    return (
      <p className="self-center px-3 py-1 text-list text-second">
        {wordsOnly.number} asks you for words here, and no marks.
      </p>
    )
  const first = (pens.rolls.data?.own ?? []).slice(0, 9)
  const more = hand.pen && !first.includes(hand.pen) ? hand.pen : null
  return (
    <>
      <Tool pressed={!hand.pen} label="Hand" keyName="" onClick={() => hand.take(null)}>
        <MousePointer2 size={17} aria-hidden />
      </Tool>
      {first.map((pen, place) => (
        <Tool
          key={place}
          pressed={hand.pen === pen}
          label={pen.name}
          keyName={String(place + 1)}
          onClick={() => hand.take(pen)}
        >
          <PenIcon pen={pen} />
        </Tool>
      ))}
      {more && (
        <Tool pressed label={more.name} keyName="" onClick={() => hand.take(null)}>
          <PenIcon pen={more} />
        </Tool>
      )}
      <Tool pressed={panes.roll} label="Pen roll" keyName="" onClick={() => panes.setRoll(!panes.roll)}>
        <PenTool size={17} aria-hidden />
      </Tool>
    </>
  )
}

function PenIcon({ pen }: { pen: Pen }) {
  const { inks } = useSheet()
  return (
    <KindIcon kind={pen.kind} symbol={pen.look?.symbol ?? ''} colour={inks[lookOf(pen).colour ?? 'red']} />
  )
}

function Steps() {
  const { acts } = useSheet()
  return (
    <>
      <Tool label="Undo" keyName="" title="Undo (Ctrl Z)" disabled={!acts.canUndo} onClick={acts.undo}>
        <Undo2 size={17} aria-hidden />
      </Tool>
      <Tool label="Redo" keyName="" title="Do it again (Ctrl Y)" disabled={!acts.canRedo} onClick={acts.redo}>
        <Redo2 size={17} aria-hidden />
      </Tool>
    </>
  )
}

function Looking() {
  const { view } = useSheet()
  return (
    <>
      <Tool label="Farther" keyName="" title="Farther (−)" onClick={() => view.current?.zoomBy(1 / 1.4)}>
        <Minus size={17} aria-hidden />
      </Tool>
      <Tool label="Nearer" keyName="" title="Nearer (+)" onClick={() => view.current?.zoomBy(1.4)}>
        <Plus size={17} aria-hidden />
      </Tool>
      <Tool label="Turn" keyName="r" onClick={() => view.current?.turn()}>
        <RotateCw size={17} aria-hidden />
      </Tool>
      <Tool label="Fit" keyName="f" onClick={() => view.current?.fit()}>
        <Maximize size={17} aria-hidden />
      </Tool>
    </>
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
  className?: string
  onClick: () => void
  children: ReactNode
}

/** A sign with its key; the one in the hand says its name. */
function Tool({ label, keyName, title, pressed, disabled, className = '', onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      title={title ?? (keyName ? `${label} (${keyName})` : label)}
      disabled={disabled}
      onClick={onClick}
      className={`flex min-h-9 min-w-9 shrink-0 items-center justify-center gap-1 px-1.5 max-xl:min-w-8 max-xl:px-1 max-md:min-h-11 max-md:min-w-11 py-1.5 text-list hover:bg-paper disabled:opacity-35 aria-pressed:bg-plum-tint aria-pressed:text-plum ${className}`}
    >
      {children}
      <span
        className={
          pressed
            ? 'max-w-[130px] truncate max-2xl:group-data-[room]/strip:sr-only max-xl:sr-only'
            : 'sr-only'
        }
      >
        {label}
      </span>
      {keyName && (
        <kbd aria-hidden className="code text-fine text-second max-xl:hidden">
          {keyName}
        </kbd>
      )}
    </button>
  )
}
