import { ArrowDownToLine, ArrowUpToLine, Lock, LockOpen } from 'lucide-react'
import { useState } from 'react'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Select } from '../../../ui/Field'
import { IconButton } from '../../../ui/IconButton'
import { WRITTEN } from '../../../domain/shapes'
import { disciplinesOf } from './disciplines'
import type { Acts, Wanted } from './useActs'
import type { Look, Mark } from './useMarks'
import { useSheetPeople } from './useSheetPeople'

interface Props {
  mark: Mark
  acts: Acts
  fresh: boolean
  revisionId: string
  inks: Record<string, string>
}

/** What one may still change of one's own mark, until somebody has answered. */
export function MarkOwn({ mark, acts, fresh, revisionId, inks }: Props) {
  const { project } = useSeat()
  const [text, setText] = useState(mark.text)
  const [label, setLabel] = useState(mark.label)
  const changed = text.trim() !== mark.text
  const change = (to: Wanted['to']) => acts.change([{ mark, to }])
  return (
    <div className="mt-2 flex flex-col gap-2">
      <form
        className="flex flex-col gap-1.5"
        onSubmit={(event) => {
          event.preventDefault()
          if (changed) change({ text })
        }}
      >
        <textarea
          aria-label="Text of the mark"
          rows={2}
          value={text}
          disabled={mark.locked}
          placeholder="What is it about? @Name tells somebody"
          // A mark just drawn wants its text at once.
          // eslint-disable-next-line jsx-a11y/no-autofocus
          autoFocus={fresh && !mark.text}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => changed && change({ text })}
          onKeyDown={(event) => {
            if (event.key === 'Escape') event.currentTarget.blur()
            if (event.key === 'Enter' && !event.shiftKey) {
              event.preventDefault()
              event.currentTarget.blur()
            }
          }}
          className="rounded-[3px] border border-line bg-surface px-2 py-1 placeholder:text-second"
        />
        <div className="flex items-center justify-between">
          <Button small type="submit" disabled={!changed}>
            {changed ? 'Keep the text' : 'Text kept'}
          </Button>
          <span className="flex">
            <IconButton
              label="To the front"
              icon={<ArrowUpToLine size={15} aria-hidden />}
              disabled={mark.locked}
              onClick={() => change((now) => ({ rank: now.rank + 1 }))}
            />
            <IconButton
              label="To the back"
              icon={<ArrowDownToLine size={15} aria-hidden />}
              disabled={mark.locked}
              onClick={() => change((now) => ({ rank: now.rank - 1 }))}
            />
            <IconButton
              label={mark.locked ? 'Unlock' : 'Lock'}
              icon={mark.locked ? <Lock size={15} aria-hidden /> : <LockOpen size={15} aria-hidden />}
              onClick={() => change({ locked: !mark.locked })}
            />
          </span>
          <Button
            small
            look="stop"
            disabled={mark.locked}
            onClick={() => acts.remove([mark], () => undefined)}
          >
            Take away
          </Button>
        </div>
      </form>
      {!mark.locked && (
        <>
          <Appearance mark={mark} inks={inks} onChange={(look) => change({ look })} />
          <div className="grid grid-cols-2 gap-2">
            <label className="text-[12.5px] font-medium text-second">
              Label
              <input
                value={label}
                className="mt-0.5 h-8 w-full rounded-[3px] border border-line bg-surface px-2 font-normal text-ink"
                onChange={(event) => setLabel(event.target.value)}
                onBlur={() => label.trim() !== mark.label && change({ label })}
              />
            </label>
            <Select
              label="Discipline"
              value={mark.discipline}
              onChange={(discipline) => change({ discipline })}
              choices={disciplinesOf(project)}
            />
            <MeantFor mark={mark} revisionId={revisionId} onChange={(id) => change({ meant_for: id })} />
          </div>
        </>
      )}
    </div>
  )
}

interface MeantForProps {
  mark: Mark
  revisionId: string
  onChange: (id: string) => void
}

function MeantFor({ mark, revisionId, onChange }: MeantForProps) {
  const people = useSheetPeople(revisionId)
  const choices = (people.data?.people ?? []).map(({ id, name, company }) => ({
    code: id,
    words: `${name} (${company})`,
  }))
  return (
    <Select
      label="For"
      value={mark.meant_for?.id ?? ''}
      onChange={onChange}
      choices={[{ code: '', words: 'everybody' }, ...choices]}
    />
  )
}

const WEIGHTS = [0.18, 0.25, 0.35, 0.5, 0.7, 1, 1.4, 2]
const TYPES = [2.5, 3.5, 5, 7, 10]
const OPACITIES = [1, 0.7, 0.5, 0.35, 0.2]

interface AppearanceProps {
  mark: Mark
  inks: Record<string, string>
  onChange: (look: Look) => void
}

/** Ink, weight, fill, opacity, and the height of text: millimetres on paper. */
function Appearance({ mark, inks, onChange }: AppearanceProps) {
  const look = mark.look
  const set = (part: Partial<Look>) => onChange({ ...look, ...part })
  const lined = !['pin', 'symbol', 'count', 'highlight', 'text'].includes(mark.kind)
  const filled = ['cloud', 'rectangle', 'ellipse', 'polygon', 'callout', 'text', 'stamp'].includes(mark.kind)
  const numbers = (values: number[], now: number, say: (value: number) => string) =>
    [...new Set([...values, now])]
      .sort((a, b) => a - b)
      .map((value) => ({ code: String(value), words: say(value) }))
  return (
    <div className="flex flex-col gap-2">
      <div role="group" aria-label="Ink" className="flex gap-1">
        {Object.entries(inks).map(([name, hex]) => (
          <button
            key={name}
            type="button"
            aria-label={name}
            title={name}
            aria-pressed={look.colour === name}
            className="size-6 border-2 border-surface outline-ink aria-pressed:outline-2"
            style={{ background: hex }}
            onClick={() => set({ colour: name })}
          />
        ))}
      </div>
      <div className="grid grid-cols-2 gap-2">
        {lined && (
          <Select
            label="Line"
            value={String(look.weight_mm)}
            onChange={(value) => set({ weight_mm: Number(value) })}
            choices={numbers(WEIGHTS, look.weight_mm ?? 0.5, (value) => `${value} mm`)}
          />
        )}
        {filled && (
          <Select
            label="Fill"
            value={look.fill ?? ''}
            onChange={(fill) => set({ fill })}
            choices={[
              { code: '', words: 'none' },
              ...Object.keys(inks).map((name) => ({ code: name, words: name })),
            ]}
          />
        )}
        {WRITTEN.has(mark.kind) && (
          <Select
            label="Letters"
            value={String(look.type_mm)}
            onChange={(value) => set({ type_mm: Number(value) })}
            choices={numbers(TYPES, look.type_mm ?? 3.5, (value) => `${value} mm`)}
          />
        )}
        {mark.kind !== 'pin' && (
          <Select
            label="Opacity"
            value={String(look.opacity)}
            onChange={(value) => set({ opacity: Number(value) })}
            choices={numbers(OPACITIES, look.opacity ?? 1, (value) => `${Math.round(value * 100)} %`)}
          />
        )}
      </div>
    </div>
  )
}
