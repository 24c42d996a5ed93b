import { ArrowDownToLine, ArrowUpToLine, Lock, LockOpen } from 'lucide-react'
import { type KeyboardEvent } from 'react'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Select, TextField } from '../../../ui/Field'
import { IconButton } from '../../../ui/IconButton'
import { Lines } from '../../../ui/Input'
import { WRITTEN } from '../../../domain/shapes'
import { useSheet } from '../sheetContext'
import { disciplinesOf } from './disciplines'
import type { Acts, Wanted } from './useActs'
import type { Look, Mark } from './useMarks'
import { useSheetPeople } from './useSheetPeople'
import { useField, useKept } from '../../../ui/useKept'

interface Props {
  mark: Mark
  acts: Acts
  fresh: boolean
  revisionId: string
  inks: Record<string, string>
}

/** What one may still change of one's own mark, until somebody has answered. */
export function MarkOwn({ mark, acts, fresh, revisionId, inks }: Props) {
  const change = (to: Wanted['to']) => acts.change([{ mark, to }])
  return (
    <div className="mt-2 flex flex-col gap-2">
      <TextForm
        mark={mark}
        fresh={fresh}
        onChange={change}
        onRemove={() => acts.remove([mark], () => undefined)}
      />
      {!mark.locked && (
        <>
          <Appearance mark={mark} inks={inks} onChange={(look) => change({ look })} />
          <div className="grid grid-cols-2 gap-2">
            <Label mark={mark} onChange={(label) => change({ label })} />
            <Discipline mark={mark} onChange={(discipline) => change({ discipline })} />
            <MeantFor mark={mark} revisionId={revisionId} onChange={(id) => change({ meant_for: id })} />
          </div>
        </>
      )}
    </div>
  )
}

interface TextProps {
  mark: Mark
  fresh: boolean
  onChange: (to: Wanted['to']) => void
  onRemove: () => void
}

/** What the mark says, and where it lies among the others. */
function TextForm({ mark, fresh, onChange, onRemove }: TextProps) {
  const { marks } = useSheet()
  const form = useKept('mark-text', mark.id)
  const [text, setText] = useField(form, 'text', mark.text, marks.service.change.isPending)
  const changed = text.trim() !== mark.text
  return (
    <form
      className="flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault()
        if (changed) onChange({ text })
      }}
    >
      <Lines
        keep={form}
        aria-label="Text of the mark"
        rows={2}
        value={text}
        disabled={mark.locked}
        placeholder="What is it about? @Name tells somebody"
        // A mark just drawn wants its text at once.
        // eslint-disable-next-line jsx-a11y/no-autofocus
        autoFocus={fresh && !mark.text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => changed && onChange({ text })}
        onKeyDown={leaveByKey}
      />
      <div className="flex items-center justify-between">
        <Button small type="submit" why={!changed && 'The text is as it was.'}>
          {changed ? 'Keep the text' : 'Text kept'}
        </Button>
        <Order mark={mark} onChange={onChange} />
        <Button small look="stop" why={mark.locked && 'It is locked: unlock it first.'} onClick={onRemove}>
          Take away
        </Button>
      </div>
    </form>
  )
}

function leaveByKey(event: KeyboardEvent<HTMLTextAreaElement>) {
  const done = event.key === 'Enter' && !event.shiftKey
  if (done) event.preventDefault()
  if (done || event.key === 'Escape') event.currentTarget.blur()
}

function Order({ mark, onChange }: { mark: Mark; onChange: (to: Wanted['to']) => void }) {
  return (
    <span className="flex">
      <IconButton
        label="To the front"
        icon={<ArrowUpToLine size={15} aria-hidden />}
        disabled={mark.locked}
        onClick={() => onChange((now) => ({ rank: now.rank + 1 }))}
      />
      <IconButton
        label="To the back"
        icon={<ArrowDownToLine size={15} aria-hidden />}
        disabled={mark.locked}
        onClick={() => onChange((now) => ({ rank: now.rank - 1 }))}
      />
      <IconButton
        label={mark.locked ? 'Unlock' : 'Lock'}
        icon={mark.locked ? <Lock size={15} aria-hidden /> : <LockOpen size={15} aria-hidden />}
        onClick={() => onChange({ locked: !mark.locked })}
      />
    </span>
  )
}

function Label({ mark, onChange }: { mark: Mark; onChange: (label: string) => void }) {
  const { marks } = useSheet()
  const form = useKept('mark-label', mark.id)
  const [label, setLabel] = useField(form, 'label', mark.label, marks.service.change.isPending)
  return (
    <TextField
      keep={form}
      label="Label"
      value={label}
      onChange={(event) => setLabel(event.target.value)}
      onBlur={() => label.trim() !== mark.label && onChange(label)}
    />
  )
}

function Discipline({ mark, onChange }: { mark: Mark; onChange: (discipline: string) => void }) {
  const { project } = useSeat()
  return (
    <Select label="Discipline" value={mark.discipline} onChange={onChange} choices={disciplinesOf(project)} />
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
      choices={[{ code: '', words: 'nobody in particular' }, ...choices]}
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

const NO_LINE = new Set(['pin', 'symbol', 'count', 'highlight', 'text'])
const FILLED = new Set(['cloud', 'rectangle', 'ellipse', 'polygon', 'callout', 'text', 'stamp'])

/** Choices of a number, with what it is now among them. */
function numbers(values: readonly number[], now: number, say: (value: number) => string) {
  const all = [...new Set([...values, now])].sort((a, b) => a - b)
  return all.map((value) => ({ code: String(value), words: say(value) }))
}

/** Ink, weight, fill, opacity, and the height of text: millimetres on paper. */
function Appearance({ mark, inks, onChange }: AppearanceProps) {
  const { look, kind } = mark
  const set = (part: Partial<Look>) => onChange({ ...look, ...part })
  return (
    <div className="flex flex-col gap-2">
      <Inks inks={inks} chosen={look.colour} onChoose={(colour) => set({ colour })} />
      <div className="grid grid-cols-2 gap-2">
        {!NO_LINE.has(kind) && (
          <Select
            label="Line"
            value={String(look.weight_mm)}
            onChange={(value) => set({ weight_mm: Number(value) })}
            choices={numbers(WEIGHTS, look.weight_mm ?? 0.5, (value) => `${value} mm`)}
          />
        )}
        {FILLED.has(kind) && (
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
        {WRITTEN.has(kind) && (
          <Select
            label="Letters"
            value={String(look.type_mm)}
            onChange={(value) => set({ type_mm: Number(value) })}
            choices={numbers(TYPES, look.type_mm ?? 3.5, (value) => `${value} mm`)}
          />
        )}
        {kind !== 'pin' && (
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

interface InksProps {
  inks: Record<string, string>
  chosen: string | undefined
  onChoose: (name: string) => void
}

function Inks({ inks, chosen, onChoose }: InksProps) {
  return (
    <div role="group" aria-label="Ink" className="flex gap-1">
      {Object.entries(inks).map(([name, hex]) => (
        <button
          key={name}
          type="button"
          aria-label={name}
          title={name}
          aria-pressed={chosen === name}
          className="size-6 border-2 border-surface outline-ink aria-pressed:outline-2"
          style={{ background: hex }}
          onClick={() => onChoose(name)}
        />
      ))}
    </div>
  )
}
