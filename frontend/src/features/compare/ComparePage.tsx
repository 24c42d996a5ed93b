import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useRef, useState } from 'react'

import type { Affine } from '../../domain/affine'
import { surroundings } from '../../domain/pageBox'
import { useKeys } from '../../ui/keys'
import { ErrorNote } from '../../ui/Notes'
import type { View } from '../../ui/TileView'
import type { Asked } from './asked'
import { LaidView } from './LaidView'
import { Pair } from './Pair'
import { RegionList } from './RegionList'
import { useClouds } from './useClouds'
import { useLaidOver, type Region } from './useLaidOver'
import { usePicking } from './usePicking'
import { isLost } from '../../api/fetched'

/** Two sheets laid over each other, and the places where they differ. */
export function ComparePage() {
  const { before, after } = useParams({ from: '/frame/compare/$before/$after' })
  const asked = useSearch({ from: '/frame/compare/$before/$after' })
  const laid = useLaidOver(before, after, asked)
  if (isLost(laid)) return <ErrorNote error={laid.error} again={() => void laid.refetch()} />
  if (!laid.data)
    return (
      <p role="status" className="p-6">
        Laying the two sheets over each other … This takes some seconds for large ones.
      </p>
    )
  return <Compared key={`${before} ${after}`} asked={asked} />
}

function Compared({ asked }: { asked: Asked }) {
  const { before, after } = useParams({ from: '/frame/compare/$before/$after' })
  const { data: laid } = useLaidOver(before, after, asked)
  const navigate = useNavigate()
  const view = useRef<View>(null)
  const [at, setAt] = useState<number | null>(null)
  const clouds = useClouds(laid)
  const picking = usePicking((laid?.moved as Affine | undefined) ?? null)
  const shown = asked.shown ?? 'overlay'
  const regions = laid?.regions ?? []

  const ask = (change: Asked) => {
    if ('places' in change || 'with_block' in change) setAt(null)
    void navigate({
      to: '/compare/$before/$after',
      params: { before, after },
      search: { ...asked, ...change },
      replace: true,
    })
  }

  function show(place: number) {
    const region = regions[place]
    if (!region) return
    setAt(place)
    view.current?.show(surroundings(region.box))
  }

  const step = (by: number) => {
    if (regions.length) show(((at ?? (by > 0 ? -1 : 0)) + by + regions.length) % regions.length)
  }
  useKeys({
    n: ['the next changed place', () => step(1)],
    b: ['the changed place before', () => step(-1)],
    f: ['fit the sheet', () => view.current?.fit()],
    '+': ['nearer', () => view.current?.zoomBy(1.4)],
    '-': ['farther', () => view.current?.zoomBy(1 / 1.4)],
    Escape: ['stop picking places', picking.stop],
  })
  if (!laid) return null
  return (
    <div className="flex h-full">
      <div className="relative min-w-0 flex-1">
        <LaidView laid={laid} shown={shown} apart={asked.apart ?? false} picking={picking} view={view}>
          <Places regions={regions} at={at} />
        </LaidView>
        <Pair laid={laid} asked={asked} shown={shown} picking={picking} onAsk={ask} />
      </div>
      <RegionList
        laid={laid}
        at={at}
        onShow={show}
        withBlock={asked.with_block ?? false}
        onWithBlock={(on) => ask({ with_block: on || undefined })}
        mayMark={laid.after.may_mark}
        clouding={clouds.isPending}
        cloudError={clouds.error}
        clouded={clouds.data?.length ?? 0}
        onCloud={(chosen) => clouds.mutate(chosen)}
      />
    </div>
  )
}

/** Frames around the changed places; the one that is looked at is bold. */
function Places({ regions, at }: { regions: readonly Region[]; at: number | null }) {
  return regions.map(({ box: [left, upper, right, lower], clouded }, place) => (
    <rect
      key={place}
      data-testid="changed-place"
      x={left - 4}
      y={upper - 4}
      width={right - left + 8}
      height={lower - upper + 8}
      fill="none"
      stroke={clouded ? '#41607f' : '#9A6A00'}
      strokeWidth={place === at ? 3 : 1.2}
      strokeDasharray={clouded ? undefined : '5 3'}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  ))
}
