import { Day } from '../../ui/Standing'
import type { Submittal } from './useSubmittals'

const spare = (days: number) => (days < 0 ? `${-days} d late` : `${days} d`)
const DAY_MS = 86_400_000

/** How its float was, day by day, where there is more than one. */
export function FloatPast({ floats }: { floats: Submittal['floats'] }) {
  const known = floats.flatMap((each) => (each.days === null ? [] : [{ on: each.on, days: each.days }]))
  const [first, last] = [known[0], known.at(-1)]
  if (!first || !last || first === last) return null
  const begin = Date.parse(first.on)
  const span = Math.max((Date.parse(last.on) - begin) / DAY_MS, 1)
  const high = Math.max(...known.map((each) => each.days), 0)
  const low = Math.min(...known.map((each) => each.days), 0)
  const x = (on: string) => ((Date.parse(on) - begin) / DAY_MS / span) * 100
  const y = (days: number) => 2 + ((high - days) / Math.max(high - low, 1)) * 20
  return (
    <div className="mt-2">
      <p className="text-note text-second">
        Float since <Day on={first.on} />: {spare(first.days)} then, {spare(last.days)} now
      </p>
      <svg aria-hidden viewBox="0 0 100 24" preserveAspectRatio="none" className="h-6 w-full text-plum">
        <line x1={0} x2={100} y1={y(0)} y2={y(0)} stroke="var(--line)" vectorEffect="non-scaling-stroke" />
        <polyline
          points={known.map((each) => `${x(each.on)},${y(each.days)}`).join(' ')}
          fill="none"
          stroke="currentColor"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </div>
  )
}
