import { Link, useRouterState } from '@tanstack/react-router'
import { ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useLayoutEffect, useRef, useState } from 'react'

import { fitting } from '../../domain/fitting'
import type { Station } from './stations'

interface Props {
  stations: Station[]
  counts: Record<string, number>
}

const countOf = (station: Station, counts: Record<string, number>) =>
  station.count ? (counts[station.count] ?? 0) : 0

function Count({ count }: { count: number }) {
  if (!count) return null
  return (
    <span className="min-w-[18px] bg-plum px-1 text-center text-fine leading-[17px] font-semibold text-on-plum">
      {count}
      <span className="sr-only"> waiting for you</span>
    </span>
  )
}

function useHere(stations: readonly Station[]): number {
  const path = useRouterState({ select: (state) => state.location.pathname })
  return stations.findIndex((each) => (each.to === '/' ? path === '/' : path.startsWith(each.to)))
}

const STATION =
  'flex shrink-0 items-center gap-1.5 border-b-[3px] border-transparent px-2 whitespace-nowrap max-xl:gap-1 max-xl:px-1 xl:px-2.5 pt-[3px] text-body max-xl:text-list'
const GAP_PX = 2

/** How wide each station is, the last what leads to the others, and how much room there is. */
function useRoom(count: number) {
  const row = useRef<HTMLElement>(null)
  const ruler = useRef<HTMLDivElement>(null)
  const [sizes, setSizes] = useState<{ room: number; widths: number[] }>({ room: Infinity, widths: [] })
  useLayoutEffect(() => {
    const measure = () => {
      const widths = [...(ruler.current?.children ?? [])].map(
        (each) => (each as HTMLElement).offsetWidth + GAP_PX,
      )
      setSizes({ room: row.current?.offsetWidth ?? Infinity, widths })
    }
    measure()
    const watch = new ResizeObserver(measure)
    for (const each of [row.current, ruler.current]) if (each) watch.observe(each)
    return () => watch.disconnect()
  }, [count])
  return { row, ruler, ...sizes }
}

/** The stations in one row; those for which there is no room are behind *more*, never the one that one is at. */
export function Stations({ stations, counts }: Props) {
  const here = useHere(stations)
  const { row, ruler, room, widths } = useRoom(stations.length)
  const known = widths.length === stations.length + 1
  const shown = known
    ? fitting(widths.slice(0, -1), here, room, widths.at(-1) ?? 0)
    : stations.map((_, place) => place)
  const others = stations.filter((_, place) => !shown.includes(place))
  return (
    <nav
      ref={row}
      aria-label="Stations"
      className="relative flex min-w-0 flex-1 items-stretch gap-0.5 overflow-hidden"
    >
      {shown.map((place) => (
        <StationLink key={stations[place]?.to} station={stations[place]} counts={counts} />
      ))}
      {others.length > 0 && <More stations={others} counts={counts} />}
      <div ref={ruler} aria-hidden className="invisible fixed -top-24 left-[-200vw] flex w-max font-semibold">
        {stations.map((station) => (
          <span key={station.to} className={STATION}>
            {station.words}
            <Count count={countOf(station, counts)} />
          </span>
        ))}
        <span className={STATION}>
          more <Count count={stations.reduce((sum, each) => sum + countOf(each, counts), 0)} />
          <ChevronDown size={15} />
        </span>
      </div>
    </nav>
  )
}

function StationLink({ station, counts }: { station: Station | undefined; counts: Record<string, number> }) {
  if (!station) return null
  return (
    <Link
      to={station.to}
      activeOptions={{ exact: station.to === '/', includeSearch: false }}
      className={`${STATION} hover:bg-paper data-[status=active]:border-plum data-[status=active]:font-semibold`}
    >
      {station.words}
      <Count count={countOf(station, counts)} />
    </Link>
  )
}

function More({ stations, counts }: Props) {
  const waiting = stations.reduce((sum, each) => sum + countOf(each, counts), 0)
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={`${STATION} hover:bg-paper`}>
        more <Count count={waiting} />
        <ChevronDown size={15} aria-hidden />
      </DropdownMenu.Trigger>
      <Offered stations={stations} counts={counts} />
    </DropdownMenu.Root>
  )
}

/** On a phone: the station's name, and the others behind it. */
export function StationMenu({ stations, counts }: Props) {
  const here = stations[useHere(stations)]
  const waiting = stations.reduce((sum, each) => sum + (each === here ? 0 : countOf(each, counts)), 0)
  return (
    <nav aria-label="Stations" className="flex min-w-0 items-center">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="flex min-h-11 min-w-0 items-center gap-1.5 font-semibold">
          <span className="truncate">{here?.words ?? 'Stations'}</span>
          <Count count={waiting} />
          <ChevronDown size={15} aria-hidden />
        </DropdownMenu.Trigger>
        <Offered stations={stations} counts={counts} />
      </DropdownMenu.Root>
    </nav>
  )
}

function Offered({ stations, counts }: Props) {
  return (
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        align="start"
        sideOffset={4}
        className="z-30 min-w-[220px] border border-second bg-surface py-1"
      >
        {stations.map((station) => (
          <DropdownMenu.Item key={station.to} asChild>
            <Link
              to={station.to}
              className="flex min-h-11 items-center justify-between gap-3 px-4 outline-none data-[highlighted]:bg-plum-tint"
            >
              {station.words}
              <Count count={countOf(station, counts)} />
            </Link>
          </DropdownMenu.Item>
        ))}
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  )
}
