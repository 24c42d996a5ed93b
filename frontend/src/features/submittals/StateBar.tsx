import type { Schemas } from '../../api/client'
import type { State } from './submittalSearch'

interface Props {
  states: readonly Schemas['StateCount'][]
  late: number
  chosen: State | undefined
  onlyLate: boolean
  onState: (state: State | undefined) => void
  onLate: (late: boolean) => void
}

/** Counts each state, in the order of the work; a press narrows the log to it. */
export function StateBar({ states, late, chosen, onlyLate, onState, onLate }: Props) {
  const press = 'min-h-6 border-b-2 px-2 py-1 text-list whitespace-nowrap'
  return (
    <div
      role="group"
      aria-label="By state"
      className="flex flex-wrap items-stretch gap-x-1 border-b border-line px-3"
    >
      {states.map(({ state, count }) => (
        <button
          key={state}
          type="button"
          aria-pressed={chosen === state}
          onClick={() => onState(chosen === state ? undefined : (state as State))}
          className={`${press} ${chosen === state ? 'border-plum font-semibold text-plum' : 'border-transparent'} ${count ? '' : 'text-second'}`}
        >
          <span className="font-semibold">{count}</span> {state}
        </button>
      ))}
      <button
        type="button"
        aria-pressed={onlyLate}
        onClick={() => onLate(!onlyLate)}
        className={`${press} ml-auto max-md:ml-0 ${onlyLate ? 'border-brick font-semibold text-brick' : 'border-transparent'} ${late ? 'text-brick' : 'text-second'}`}
      >
        <span className="font-semibold">{late}</span> late
      </button>
    </div>
  )
}
