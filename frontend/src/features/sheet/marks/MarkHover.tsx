import { useState, type PointerEvent } from 'react'

import { By } from '../../../ui/Said'
import { useSheet } from '../sheetContext'
import { nameOf } from './MarkItem'

interface Over {
  id: string
  x: number
  y: number
}

const SHOWN = 220

/** What the pointer rests on, without a pen and without a press. */
export function useMarkHover(idle: boolean) {
  const [over, setOver] = useState<Over | null>(null)
  return {
    over: idle ? over : null,
    onPointerOver: (event: PointerEvent) => {
      const mark = event.pointerType === 'mouse' && (event.target as Element).closest('[data-mark]')
      const box = event.currentTarget.getBoundingClientRect()
      const id = mark ? (mark.getAttribute('data-mark') ?? '') : ''
      setOver(id ? { id, x: event.clientX - box.left, y: event.clientY - box.top } : null)
    },
    onPointerLeave: () => setOver(null),
  }
}

/** What a mark says, and what was answered last, beside the pointer. */
export function MarkHover({ over }: { over: Over | null }) {
  const { marks } = useSheet()
  const mark = over && marks.all.find((each) => each.id === over.id)
  if (!mark) return null
  const last = mark.replies.at(-1)
  const cut = (text: string) => (text.length > SHOWN ? `${text.slice(0, SHOWN)} …` : text)
  return (
    <div
      role="tooltip"
      data-panel
      className="pointer-events-none absolute z-20 max-w-[280px] border border-second bg-surface px-2.5 py-1.5 text-list"
      style={{ left: `min(${over.x + 16}px, calc(100% - 290px))`, top: over.y + 18 }}
    >
      <p className="text-note text-second">
        <span className="font-semibold text-ink">{nameOf(mark)}</span> · <By author={mark.author} />
      </p>
      <p className="break-words">
        {mark.measured && <span className="code font-bold">{mark.measured.words} </span>}
        {cut(mark.text) || (!mark.measured && <em className="text-second">no text yet</em>)}
      </p>
      {last && (
        <p className="mt-1 border-l-2 border-line pl-2 text-note break-words text-second">
          {last.author.name}: {cut(last.text)}
        </p>
      )}
    </div>
  )
}
