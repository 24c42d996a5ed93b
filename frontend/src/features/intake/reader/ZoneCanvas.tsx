import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'

import { nudge, toBox, toZone, type Box, type Placed } from '../../../domain/zones'
import { Button } from '../../../ui/Button'
import { TileView, type View } from '../../../ui/TileView'
import type { Look } from '../useIntake'
import { wordsOf, type ReadField, type Zone } from './useReader'

interface Props {
  look: Look
  page: number
  zones: readonly Zone[]
  fields: readonly ReadField[]
  chosen: number
  /** The field whose zone is drawn next; empty while one only looks. */
  drawingField: string
  onChoose: (place: number) => void
  onDraw: (placed: Placed) => void
  onChange: (place: number, placed: Placed) => void
}

const LEAST_MM = 1
const PT_PER_MM = 72 / 25.4

/** The page with its zones: drawn with the pointer, moved with the arrows, resized with Shift and the arrows. */
export function ZoneCanvas(props: Props) {
  const { look, page, zones, fields, chosen, drawingField, onChoose, onDraw, onChange } = props
  const view = useRef<View>(null)
  const [drawn, setDrawn] = useState<Box | null>(null)
  const sheet = look.pages[page]
  if (!sheet) return null
  const size = { width: sheet.width_mm, height: sheet.height_mm }
  const toMm = sheet.width_mm / sheet.width_pt

  function at(event: PointerEvent): [number, number] {
    const [x, y] = view.current?.place(event.clientX, event.clientY) ?? [0, 0]
    return [x * toMm, y * toMm]
  }

  function down(event: PointerEvent) {
    const [x, y] = at(event)
    event.currentTarget.setPointerCapture(event.pointerId)
    setDrawn([x, y, x, y])
  }

  function move(event: PointerEvent) {
    if (drawn) setDrawn([drawn[0], drawn[1], ...at(event)])
  }

  function up() {
    if (drawn) {
      const placed = toZone(drawn, size)
      if (placed.width_mm >= LEAST_MM && placed.height_mm >= LEAST_MM) onDraw(placed)
    }
    setDrawn(null)
  }

  function onKey(event: KeyboardEvent, place: number, zone: Zone) {
    const steps: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    }
    const step = steps[event.key]
    if (!step) return
    event.preventDefault()
    onChange(place, nudge(zone, size, step[0], step[1], event.shiftKey))
  }

  const inPoints = (box: Box) => {
    const [left, upper, right, lower] = box.map((value) => value / toMm) as unknown as Box
    return { x: left, y: upper, width: Math.max(0, right - left), height: Math.max(0, lower - upper) }
  }
  return (
    <div
      className="size-full"
      role="presentation"
      onPointerDown={drawingField ? down : undefined}
      onPointerMove={drawingField ? move : undefined}
      onPointerUp={drawingField ? up : undefined}
    >
      <TileView
        source={{
          address: `/api/intake/arrivals/${look.id}/tiles/${page}`,
          width: sheet.width_pt,
          height: sheet.height_pt,
          tilePx: look.tile_px,
          firstLevel: look.first_level,
          topLevel: look.top_level,
          wholeLevel: look.whole_level,
        }}
        drawing={drawingField !== ''}
        label="Zones on the page"
        view={view}
      >
        {zones.map((zone, place) => {
          const shape = inPoints(toBox(zone, size))
          return (
            <g key={place}>
              <rect
                {...shape}
                tabIndex={0}
                role="button"
                aria-label={`Zone ${wordsOf(fields, zone.field)}: arrows move it, Shift and arrows resize it`}
                aria-pressed={place === chosen}
                fill={place === chosen ? '#6d2e4f22' : '#41607f18'}
                stroke={place === chosen ? '#6d2e4f' : '#41607f'}
                strokeDasharray={zone.field === 'not compared' ? '6 4' : undefined}
                vectorEffect="non-scaling-stroke"
                strokeWidth={place === chosen ? 2.5 : 1.5}
                onPointerDown={() => onChoose(place)}
                onFocus={() => onChoose(place)}
                onKeyDown={(event) => onKey(event, place, zone)}
              />
              <text
                x={shape.x}
                y={shape.y}
                fill={place === chosen ? '#6d2e4f' : '#41607f'}
                style={{ fontSize: 'calc(var(--unit) * 12px)', fontWeight: 600 }}
                dy="-0.3em"
                pointerEvents="none"
              >
                {wordsOf(fields, zone.field)}
              </text>
            </g>
          )
        })}
        {drawn && (
          <rect
            {...inPoints(toBox(toZone(drawn, size), size))}
            fill="#6d2e4f22"
            stroke="#6d2e4f"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
        )}
      </TileView>
      <div className="absolute bottom-2 left-2 flex gap-1">
        <Go onGo={() => view.current?.fit()}>Whole sheet</Go>
        <Go onGo={() => view.current?.show(cornerOf(size))}>Lower right corner</Go>
      </div>
    </div>
  )
}

function Go({ onGo, children }: { onGo: () => void; children: string }) {
  return (
    <Button small onClick={onGo}>
      {children}
    </Button>
  )
}

/** Where most title blocks are, in points. */
function cornerOf({ width, height }: { width: number; height: number }): [number, number, number, number] {
  const wide = Math.min(width, 200)
  const high = Math.min(height, 130)
  return [(width - wide) * PT_PER_MM, (height - high) * PT_PER_MM, width * PT_PER_MM, height * PT_PER_MM]
}
