import type { Schemas } from '../../api/client'
import { counted } from '../../domain/counted'

type Company = Schemas['CompanyPace']

const WIDTH = 220
const HEIGHT = 18

/** Each answer a dot on the days it took, the spread a line, the median a stroke with its number. */
export function Pace({ company, longest }: { company: Company; longest: number }) {
  const { answers, median, low, high } = company
  if (answers.length === 0) return <span className="text-second">no answers yet</span>
  const at = (days: number) => 6 + (days / Math.max(1, longest)) * (WIDTH - 12)
  const all = `${counted(answers.length, 'answer')}, in ${answers.join(', ')} working days`
  const words =
    median == null
      ? `${all}. Too few for a median.`
      : `${all}. Median ${median}, from ${low ?? 0} to ${high ?? 0}.`
  return (
    <span className="flex items-center gap-2" title={words}>
      <svg
        role="img"
        aria-label={words}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width={WIDTH}
        height={HEIGHT}
        className="shrink-0 max-md:w-[120px]"
      >
        <line x1={at(0)} x2={at(longest)} y1={9} y2={9} className="stroke-line" />
        <line
          x1={at(low ?? 0)}
          x2={at(high ?? 0)}
          y1={9}
          y2={9}
          strokeWidth={3}
          className="stroke-slate-tint"
        />
        {answers.map((days, place) => (
          <circle key={place} cx={at(days)} cy={9} r={2.5} className="fill-slate" fillOpacity={0.55} />
        ))}
        {median != null && (
          <line x1={at(median)} x2={at(median)} y1={1} y2={17} strokeWidth={2} className="stroke-plum" />
        )}
      </svg>
      <span className="whitespace-nowrap tabular-nums">
        {median == null ? <span className="text-second">few</span> : `${median} d`}
      </span>
    </span>
  )
}
