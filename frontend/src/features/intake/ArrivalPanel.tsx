import { ArrowLeft, ArrowRight } from 'lucide-react'
import { useState } from 'react'

import { counted } from '../../domain/counted'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { GivenUpNotes } from '../../ui/GivenUp'
import { Input } from '../../ui/Input'
import { ErrorNote, Loading, Weight } from '../../ui/Notes'
import { useKeys } from '../../ui/keys'
import { Panel } from '../../ui/Panel'
import { When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { mendOf, type Table } from './useTable'
import { useLook, useSet, type Arrival, type Field } from './useIntake'
import { useField, useKept } from '../../ui/useKept'
import { isLost } from '../../api/fetched'

interface Props {
  arrival: Arrival
  table: Table
  onClose: () => void
  onSendBack: (arrival: Arrival) => void
  onDiscard: (arrival: Arrival) => void
}

/** Everything about one arriving file: what was found, what the three witnesses say, where its drawing changed. */
export function ArrivalPanel({ arrival, table, onClose, onSendBack, onDiscard }: Props) {
  const compared = arrival.compared
  const tabs = [
    { key: 'found', words: 'Found', content: <Found arrival={arrival} table={table} /> },
    {
      key: 'witnesses',
      words: 'Witnesses',
      content: <Witnesses arrival={arrival} onTake={table.take} />,
    },
    ...(compared
      ? [
          {
            key: 'changes',
            words: 'Changes',
            ...(compared.places ? { count: compared.places } : {}),
            content: <Changes arrival={arrival} />,
          },
        ]
      : []),
  ]
  return (
    <Panel label={`About ${arrival.file_name}`} onClose={onClose}>
      <header className="border-b border-line px-4 pt-3 pb-2 pr-10">
        <h2 className="code text-body font-semibold break-all">{arrival.number || 'No number'}</h2>
        <p className="text-list break-words text-second">{arrival.file_name}</p>
        <p className="text-list text-second">
          {bytesText(arrival.size_bytes)}
          {arrival.page_count > 0 && `, ${arrival.page_count} page${arrival.page_count > 1 ? 's' : ''}`}
          {arrival.sheet_size && `, ${arrival.sheet_size}`}
          {arrival.scale && `, ${arrival.scale}`}
          {arrival.folder_path && `, from the folder ${arrival.folder_path}`}
        </p>
        {arrival.held_at && (
          <p className="text-list text-brick">
            Held since <When at={arrival.held_at} time />
          </p>
        )}
        <div className="mt-2 flex flex-wrap gap-2">
          <Button small onClick={() => onSendBack(arrival)}>
            Send back
          </Button>
          <Button small onClick={() => onDiscard(arrival)}>
            Discard
          </Button>
          <SetActs arrival={arrival} />
        </div>
      </header>
      <Tabs key={arrival.id} label="About the file" tabs={tabs} />
    </Panel>
  )
}

function SetActs({ arrival }: { arrival: Arrival }) {
  const set = useSet()
  if (arrival.page_count < 2 || arrival.sheets_inside) return null
  return (
    <>
      <Button small busy={set.isPending} onClick={() => set.mutate({ arrival, apart: true })}>
        Take apart into {counted(arrival.page_count, 'sheet')}
      </Button>
      <ErrorNote error={set.error} />
    </>
  )
}

function Found({ arrival, table }: { arrival: Arrival; table: Table }) {
  return (
    <>
      <GivenUpNotes work={arrival.given_up} />
      {arrival.findings.length === 0 && !arrival.looking && (
        <p className="text-second">Nothing was found: it can be registered.</p>
      )}
      <ul className="flex flex-col gap-3">
        {arrival.findings.map((finding) => (
          <li key={finding.code + finding.words}>
            <p className="flex items-center gap-2 text-list">
              <Weight weight={finding.weight} />
              <span className="font-semibold">{finding.name}</span>
            </p>
            <p className="text-read">{finding.words}</p>
            {finding.code === 'as_history' && (
              <Button
                small
                className="mt-1"
                busy={table.busy}
                onClick={() => table.take(arrival, 'history', '', 'typed')}
              >
                Not as history
              </Button>
            )}
            {mendOf(arrival, finding.code).length > 0 && (
              <Button
                small
                className="mt-1"
                busy={table.busy}
                onClick={() =>
                  table.type(arrival, finding.field as Field, finding.mend, { taken: finding.witness })
                }
              >
                {finding.field === 'history' ? (
                  'File as history'
                ) : (
                  <>
                    Take <span className="code max-w-[300px] truncate">{finding.mend}</span>
                  </>
                )}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {arrival.can_look && (
        <img
          src={`/api/intake/arrivals/${arrival.id}/thumbnails/0`}
          alt={`First page of ${arrival.file_name}`}
          className="mt-4 min-h-[200px] w-full border border-line bg-white object-contain"
        />
      )}
    </>
  )
}

const WITNESSES = [
  ['by_name', 'File name', 'file name'],
  ['by_block', 'Title block', 'title block'],
  ['by_register', 'Register', 'register'],
] as const

interface WitnessesProps {
  arrival: Arrival
  onTake: (arrival: Arrival, field: string, value: string, taken: string) => void
}

/** Side by side; a click takes what one of them says, and the trail remembers whose it was. */
function Witnesses({ arrival, onTake }: WitnessesProps) {
  return (
    <table className="w-full border-collapse text-list">
      <thead className="text-left text-note text-second">
        <tr className="border-b border-second/40">
          <th className="w-[104px] py-1 font-semibold">Field</th>
          {WITNESSES.map(([key, words]) => (
            <th key={key} className="px-1 font-semibold">
              {words}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {arrival.witnesses.map((each) => {
          return (
            <tr key={each.field} className="border-b border-line/60 align-top">
              <th scope="row" className="py-1.5 text-left font-medium">
                {each.words}
                {!IN_THE_TABLE.has(each.field) && (
                  <Typed
                    key={each.now}
                    of={`${arrival.id} ${each.field}`}
                    label={`${each.words}, to be filed`}
                    now={each.now}
                    onType={(value) => onTake(arrival, each.field, value, 'typed')}
                  />
                )}
                {each.chosen && (
                  <span className="block text-note font-normal text-second normal-case">
                    {each.chosen === 'typed' ? 'typed' : `by the ${each.chosen}`}
                  </span>
                )}
              </th>
              {WITNESSES.map(([key, , witness]) => (
                <td key={key} className="px-1 py-1 break-words">
                  <Said
                    value={each[key]}
                    why={key === 'by_block' ? each.why : ''}
                    note={
                      key === 'by_block'
                        ? noteOf(each)
                        : key === 'by_name' && each.unsure && each.by_name
                          ? 'probably; look at the name'
                          : ''
                    }
                    isNow={each[key] === each.now}
                    onTake={() => onTake(arrival, each.field, each[key], witness)}
                  />
                </td>
              ))}
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** What has a column of its own in the table is typed there. */
const IN_THE_TABLE = new Set(['number', 'revision', 'status', 'title'])

function noteOf(each: Arrival['witnesses'][number]): string {
  if (each.learned) return 'as corrected before'
  if (each.by_ocr && each.by_block) return 'read by OCR'
  return each.block_unsure ? 'unsure; look at the sheet' : ''
}

interface TypedProps {
  of: string
  label: string
  now: string
  onType: (value: string) => void
}

function Typed({ of, label, now, onType }: TypedProps) {
  const form = useKept('arrival-value', of, label)
  const [value, setValue] = useField(form, 'value', now)
  const done = () => {
    if (value.trim() !== now) onType(value.trim())
  }
  return (
    <Input
      keep={form}
      small
      aria-label={label}
      value={value}
      placeholder="none"
      className="mt-0.5 block w-[98px]"
      onChange={(event) => setValue(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === 'Enter') done()
      }}
    />
  )
}

interface SaidProps {
  value: string
  why: string
  note: string
  isNow: boolean
  onTake: () => void
}

function Said({ value, why, note, isNow, onTake }: SaidProps) {
  if (!value) return <span className="text-second">{why || '–'}</span>
  return (
    <>
      <button
        type="button"
        aria-label={`Take ${value}`}
        className={`min-h-6 min-w-6 text-left ${isNow ? 'font-semibold text-spruce' : 'text-ink underline decoration-line hover:decoration-ink'}`}
        onClick={onTake}
      >
        {value}
      </button>
      {note && <span className="block text-note text-second">{note}</span>}
    </>
  )
}

/** Both drawings in one picture, place by place. */
function Changes({ arrival }: { arrival: Arrival }) {
  const [at, setAt] = useState(0)
  useKeys({
    ',': ['the changed place before', () => setAt((old) => old - 1)],
    '.': ['the next changed place', () => setAt((old) => old + 1)],
  })
  const look = useLook(arrival.id, `${arrival.version}:${arrival.compared?.known}`)
  if (isLost(look)) return <ErrorNote error={look.error} again={() => void look.refetch()} />
  if (!look.data) return <Loading what="the changes" />
  const { changes, against, known, fault, too_many: tooMany } = look.data
  if (fault) return <p>The drawings could not be compared: {fault}</p>
  if (!known) return <p role="status">The drawing is being compared with {against} …</p>
  if (!changes.length) return <p>The drawing is the same as {against}.</p>
  const place = ((at % changes.length) + changes.length) % changes.length
  const change = changes[place]
  const step = (by: number) => setAt(place + by)
  return (
    <div role="group" aria-label="Changed places">
      <div className="mb-2 flex items-center gap-2">
        <Button small aria-label="Place before (,)" onClick={() => step(-1)}>
          <ArrowLeft size={14} aria-hidden />
        </Button>
        <span role="status" className="code text-list">
          {place + 1} of {changes.length}
          {tooMany && '+'}
        </span>
        <Button small aria-label="Next place (.)" onClick={() => step(1)}>
          <ArrowRight size={14} aria-hidden />
        </Button>
        <span className={`text-list ${change?.clouded ? 'text-spruce' : 'font-semibold text-brick'}`}>
          {arrival.compared?.strict ? '' : change?.clouded ? 'in a revision cloud' : 'no revision cloud'}
        </span>
      </div>
      {change && (
        <div className="relative border border-line bg-white">
          <img
            key={place}
            src={`/api/intake/arrivals/${arrival.id}/changes/${place}?v=${arrival.version}`}
            alt={`Place ${place + 1}: ${against} and the new drawing over each other`}
            className="block w-full"
          />
          <Frame box={change.box} shown={change.shown} />
        </div>
      )}
      <p className="mt-2 flex flex-wrap gap-x-4 text-list">
        <Legend look="bg-[#b5502e]" words={`only in the register’s ${against}, hatched`} />
        <Legend look="bg-[#007c89]" words="only in the new file" />
        <Legend look="bg-[#8a8f94]" words="in both" />
      </p>
    </div>
  )
}

/** Around the changed place in its picture. */
function Frame({ box, shown }: { box: number[]; shown: number[] }) {
  const [left = 0, upper = 0, right = 1, lower = 1] = shown
  const share = (value: number, from: number, to: number) => `${(100 * (value - from)) / (to - from)}%`
  return (
    <div
      aria-hidden
      className="pointer-events-none absolute border-2 border-dashed border-[#9a6a00]"
      style={{
        left: share(Math.max(box[0] ?? 0, left) - 1.5, left, right),
        top: share(Math.max(box[1] ?? 0, upper) - 1.5, upper, lower),
        width: share((box[2] ?? 0) - (box[0] ?? 0) + 3 + left, left, right),
        height: share((box[3] ?? 0) - (box[1] ?? 0) + 3 + upper, upper, lower),
      }}
    />
  )
}

function Legend({ look, words }: { look: string; words: string }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <span aria-hidden className={`h-1 w-5 ${look}`} />
      {words}
    </span>
  )
}
