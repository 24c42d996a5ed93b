import { X } from 'lucide-react'
import { useCallback, useEffect, useRef, useState, type ReactNode, type PointerEvent } from 'react'

interface Props {
  label: string
  onClose: () => void
  children: ReactNode
  width?: number
}

const KEPT = 'nod.panel.'

/** The right-hand panel: the dossier's place; all there is on a phone. Shut with Esc, its width is the person's own. */
export function Panel({ label, onClose, children, width = 420 }: Props) {
  const key = KEPT + width
  const [wide, setWide] = useState(
    () => Number(localStorage.getItem(key)) || Math.max(360, Math.min(width, window.innerWidth - 650)),
  )
  const from = useRef<{ x: number; wide: number } | null>(null)

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input, textarea, select, [role=dialog]')
      if (event.key === 'Escape' && !typing) onClose()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [onClose])

  const resize = useCallback(
    (next: number) => {
      const fitting = Math.max(320, Math.min(next, window.innerWidth - 360))
      setWide(fitting)
      localStorage.setItem(key, String(fitting))
    },
    [key],
  )

  function drag(event: PointerEvent) {
    if (from.current) resize(from.current.wide + from.current.x - event.clientX)
  }

  return (
    <aside
      aria-label={label}
      className="relative flex h-full max-w-full shrink-0 flex-col border-l border-line bg-surface max-md:absolute max-md:inset-0 max-md:z-20 max-md:!w-full"
      style={{ width: wide }}
    >
      <div
        role="slider"
        tabIndex={0}
        aria-label="Width of the panel"
        aria-orientation="horizontal"
        aria-valuenow={wide}
        aria-valuemin={320}
        aria-valuemax={1200}
        className="absolute top-0 -left-1 h-full w-2 cursor-col-resize select-none hover:bg-line max-md:hidden"
        onPointerCancel={() => (from.current = null)}
        onPointerDown={(event) => {
          from.current = { x: event.clientX, wide }
          event.currentTarget.setPointerCapture(event.pointerId)
        }}
        onPointerMove={drag}
        onPointerUp={() => (from.current = null)}
        onKeyDown={(event) => {
          if (event.key === 'ArrowLeft') resize(wide + 24)
          if (event.key === 'ArrowRight') resize(wide - 24)
        }}
      />
      <button
        type="button"
        onClick={onClose}
        aria-label="Shut the panel (Esc)"
        className="absolute top-2.5 right-3 z-10 p-1 text-second hover:text-ink"
      >
        <X size={17} />
      </button>
      {children}
    </aside>
  )
}
