import { BareChoice } from './Input'

export type Grave = 'must' | 'should' | 'note'

export const GRAVES: { code: Grave; words: string }[] = [
  { code: 'must', words: 'must be done' },
  { code: 'should', words: 'should be done' },
  { code: 'note', words: 'note' },
]

const TONES: Record<string, string> = {
  must: 'border-brick text-brick',
  should: 'border-ochre text-ochre',
  note: 'border-slate text-slate',
}

/** How grave a comment is, as a word in its colour. */
export function GraveMark({ grave }: { grave: string }) {
  return (
    <span className={`border px-1 text-note font-semibold ${TONES[grave] ?? 'border-line'}`}>{grave}</span>
  )
}

/** How grave what one says is. */
export function GraveChoice({
  label,
  value,
  onChange,
}: {
  label: string
  value: Grave
  onChange: (grave: Grave) => void
}) {
  return (
    <BareChoice
      aria-label={label}
      className="h-7 border border-line bg-surface px-1 text-list"
      value={value}
      onChange={(event) => onChange(event.target.value as Grave)}
    >
      {GRAVES.map((each) => (
        <option key={each.code} value={each.code}>
          {each.words}
        </option>
      ))}
    </BareChoice>
  )
}
