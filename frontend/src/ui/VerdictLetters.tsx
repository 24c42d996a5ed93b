import type { Schemas } from '../api/client'

interface Props {
  /** Of the group of letters, among others on the page. */
  name: string
  verdicts: readonly Schemas['VerdictShown'][]
  chosen: string
  onChoose: (code: string) => void
  label?: string
}

/** The verdicts as stamps to press. */
export function VerdictLetters({
  name,
  verdicts,
  chosen,
  onChoose,
  label = 'Your verdict on this document',
}: Props) {
  return (
    <div role="radiogroup" aria-label={label} className="flex gap-1">
      {verdicts.map(({ code, words }) => (
        <label
          key={code}
          title={words}
          className="flex h-7 min-w-7 cursor-pointer items-center justify-center border-2 border-line px-1.5 font-bold has-checked:border-plum has-checked:bg-plum has-checked:text-on-plum has-focus-visible:outline-2 has-focus-visible:outline-plum"
        >
          <input
            type="radio"
            className="sr-only"
            name={`verdict ${name}`}
            checked={chosen === code}
            onChange={() => onChoose(code)}
          />
          {code}
          <span className="sr-only"> {words}</span>
        </label>
      ))}
      <span className="self-center text-second max-lg:sr-only">
        {verdicts.find((each) => each.code === chosen)?.words}
      </span>
    </div>
  )
}
