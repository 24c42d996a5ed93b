import { Link } from '@tanstack/react-router'

import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { dayText } from '../../domain/dates'

type FloatDay = Schemas['FloatsShown']

const HEIGHT = 72

/** Day by day how many were late, each leading to them, and the float in the middle of the log. */
export function FloatDays({ days }: { days: readonly FloatDay[] }) {
  const shown = days.filter((each) => each.known)
  if (!shown.length) return null
  const most = Math.max(1, ...shown.map((each) => each.late))
  const medians = shown.map((each) => each.median ?? 0)
  return (
    <section aria-label="How floats fall" className="min-[1000px]:col-span-2">
      <h2 className="font-semibold">How floats fall</h2>
      <p className="mb-2 max-w-[70ch] text-list text-second">
        Kept every working day, of what was still to come. Above, the middle float of the log, in working
        days; below, how many were late: each day leads to those.
      </p>
      <Medians medians={medians} />
      <ol className="flex items-end border-b border-second" style={{ height: HEIGHT }}>
        {shown.map((each) => (
          <LateOn key={each.on} day={each} most={most} />
        ))}
      </ol>
      <p className="flex justify-between text-note text-second">
        <DayWords on={shown[0]?.on ?? ''} />
        <DayWords on={shown.at(-1)?.on ?? ''} />
      </p>
    </section>
  )
}

function DayWords({ on }: { on: string }) {
  const { project } = useSeat()
  return <span>{on === project.today ? 'today' : dayText(on, project.today)}</span>
}

/** A line from the middle of each day's column to the next. */
function Medians({ medians }: { medians: readonly number[] }) {
  const [high, low] = [Math.max(...medians, 1), Math.min(...medians, 0)]
  const span = high - low
  const y = (value: number) => 4 + ((high - value) / span) * 64
  const x = (place: number) => ((place + 0.5) / medians.length) * 100
  const last = medians.at(-1) ?? 0
  return (
    <div className="relative mb-1" style={{ height: HEIGHT }}>
      <svg
        role="img"
        aria-label={`The middle float was ${medians[0] ?? 0} working days at first and is ${last} now.`}
        viewBox="0 0 100 72"
        preserveAspectRatio="none"
        className="h-full w-full text-plum"
      >
        <polyline
          points={medians.map((value, place) => `${x(place)},${y(value)}`).join(' ')}
          fill="none"
          stroke="currentColor"
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <span className="absolute top-0 left-0 bg-paper pr-1 text-note text-second">{medians[0] ?? 0} d</span>
      <span className="absolute top-0 right-0 bg-paper pl-1 text-note font-semibold text-plum">{last} d</span>
    </div>
  )
}

function LateOn({ day, most }: { day: FloatDay; most: number }) {
  const { project } = useSeat()
  const words = `${dayText(day.on, project.today)}: ${day.late} of ${day.known} late`
  return (
    <li className="h-full min-w-0 flex-1">
      <Link
        to="/submittals"
        search={{ late_on: day.on }}
        title={words}
        aria-label={words}
        className="group flex h-full flex-col justify-end px-px"
      >
        <span className="text-center text-note text-brick max-md:hidden">{day.late || ''}</span>
        <span
          className="mx-auto block w-full max-w-3 bg-brick group-hover:opacity-70"
          style={{ height: `${(day.late / most) * 70}%` }}
        />
      </Link>
    </li>
  )
}
