import { Cloud, Maximize, Minus, MousePointer2, PanelRight, Plus, MapPin } from 'lucide-react'
import type { ReactNode } from 'react'

import type { Schemas } from '../../api/client'
import type { Gesture } from '../../domain/drawing'

interface Props {
  sheet: Schemas['Sheet']
  gesture: Gesture
  onGesture: (gesture: Gesture) => void
  onFit: () => void
  onZoom: (factor: number) => void
  listOpen: boolean
  onList: () => void
}

/** Pens as a narrow strip at the lower edge, where a hand rests. */
export function PenStrip({ sheet, gesture, onGesture, onFit, onZoom, listOpen, onList }: Props) {
  const pen = gesture.kind === 'idle' ? 'none' : gesture.pen
  return (
    <div
      role="toolbar"
      aria-label="Pens"
      className="absolute bottom-3 left-1/2 flex -translate-x-1/2 items-stretch border border-second bg-surface"
    >
      {sheet.may_mark && (
        <>
          <Tool
            pressed={pen === 'none'}
            label="Hand"
            keyName="Esc"
            onClick={() => onGesture({ kind: 'idle' })}
          >
            <MousePointer2 size={17} aria-hidden />
          </Tool>
          <Tool
            pressed={pen === 'cloud'}
            label="Cloud"
            keyName="1"
            onClick={() => onGesture({ kind: 'pen', pen: 'cloud' })}
          >
            <Cloud size={17} aria-hidden />
          </Tool>
          <Tool
            pressed={pen === 'pin'}
            label="Pin"
            keyName="2"
            onClick={() => onGesture({ kind: 'pen', pen: 'pin' })}
          >
            <MapPin size={17} aria-hidden />
          </Tool>
          <span aria-hidden className="my-1 w-px bg-line" />
        </>
      )}
      <Tool label="Farther" keyName="−" onClick={() => onZoom(1 / 1.4)}>
        <Minus size={17} aria-hidden />
      </Tool>
      <Tool label="Nearer" keyName="+" onClick={() => onZoom(1.4)}>
        <Plus size={17} aria-hidden />
      </Tool>
      <Tool label="Fit" keyName="f" onClick={onFit}>
        <Maximize size={17} aria-hidden />
      </Tool>
      <span aria-hidden className="my-1 w-px bg-line" />
      <Tool pressed={listOpen} label="Marks" keyName="" onClick={onList}>
        <PanelRight size={17} aria-hidden />
      </Tool>
    </div>
  )
}

interface ToolProps {
  label: string
  keyName: string
  pressed?: boolean
  onClick: () => void
  children: ReactNode
}

function Tool({ label, keyName, pressed, onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      onClick={onClick}
      className="flex items-center gap-1.5 px-2.5 py-1.5 text-list hover:bg-paper aria-pressed:bg-plum-tint aria-pressed:text-plum"
    >
      {children}
      {label}
      {keyName && (
        <kbd aria-hidden className="code text-[11px] text-second">
          {keyName}
        </kbd>
      )}
    </button>
  )
}
