import { useEffect, useRef } from 'react'

import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { ErrorNote } from '../../ui/Notes'
import type { LaidOver, Region } from './useLaidOver'

interface Props {
  laid: LaidOver
  at: number | null
  onShow: (place: number) => void
  withBlock: boolean
  onWithBlock: (on: boolean) => void
  mayMark: boolean
  clouding: boolean
  cloudError: unknown
  clouded: number
  onCloud: (regions: readonly Region[]) => void
}

/** The changed places, the largest first. */
export function RegionList({ laid, at, onShow, withBlock, onWithBlock, mayMark, ...cloud }: Props) {
  const current = useRef<HTMLLIElement>(null)
  useEffect(() => {
    current.current?.scrollIntoView({ block: 'nearest' })
  }, [at])
  const bare = laid.regions.filter((region) => !region.clouded)
  const chosen = at === null ? undefined : laid.regions[at]
  return (
    <aside
      aria-label="Changed places"
      className="flex h-full w-[300px] shrink-0 flex-col border-l border-line bg-surface"
    >
      <header className="border-b border-line bg-paper px-3 py-2">
        <h2 className="text-body font-semibold">{countOf(laid)}</h2>
        <p className="text-note text-second">
          {laid.regions.length > 0 && (
            <>
              {bare.length === 0
                ? 'A revision cloud stands around each. '
                : `${bare.length} without a revision cloud. `}
            </>
          )}
          <kbd className="code">n</kbd> the next, <kbd className="code">b</kbd> the one before
        </p>
        <p className="text-note text-second">
          Every change of 2 mm or more is listed; smaller ones may be missing.
        </p>
      </header>
      <div className="border-b border-line px-3 py-1.5">
        <Checkbox
          checked={!withBlock}
          onChange={(on) => onWithBlock(!on)}
          label="Leave the title block out"
        />
      </div>
      <ol className="min-h-0 flex-1 overflow-auto">
        {laid.regions.map((region, place) => (
          <li key={place} ref={place === at ? current : null} className="border-b border-line/60">
            <button
              type="button"
              aria-current={place === at}
              className="flex w-full items-center gap-2 px-3 py-1 text-left text-list hover:bg-paper aria-[current=true]:bg-plum-tint"
              onClick={() => onShow(place)}
            >
              <span className="code w-7 text-second">{place + 1}</span>
              <span className="code flex-1">
                {region.width_mm.toFixed(0)} × {region.height_mm.toFixed(0)} mm
              </span>
              {region.clouded ? (
                <span className="text-second">clouded</span>
              ) : (
                <span className="font-medium text-ochre">△ no cloud</span>
              )}
            </button>
          </li>
        ))}
      </ol>
      <ErrorNote error={cloud.cloudError} />
      {mayMark && laid.regions.length > 0 && (
        <footer className="flex flex-wrap items-center gap-1.5 border-t border-line px-3 py-2">
          <Button
            small
            busy={cloud.clouding}
            why={!chosen && 'Choose a region first.'}
            onClick={() => chosen && cloud.onCloud([chosen])}
          >
            Cloud this one
          </Button>
          {bare.length > 0 && (
            <Button small busy={cloud.clouding} onClick={() => cloud.onCloud(bare)}>
              Cloud all {bare.length} without
            </Button>
          )}
          {cloud.clouded > 0 && (
            <p role="status" className="w-full text-note text-second">
              {cloud.clouded} {cloud.clouded === 1 ? 'cloud' : 'clouds'} in pencil on {laid.after.revision}.
            </p>
          )}
        </footer>
      )}
    </aside>
  )
}

function countOf(laid: LaidOver): string {
  if (!laid.regions.length) return 'Nothing has changed'
  const count = `${laid.regions.length}${laid.too_many ? ' and more' : ''}`
  return `${count} changed ${laid.regions.length === 1 ? 'place' : 'places'}`
}
