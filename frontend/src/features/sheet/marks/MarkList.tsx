import { Filter, X } from 'lucide-react'
import { useState, type ReactNode } from 'react'

import { counted } from '../../../domain/counted'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Checkbox } from '../../../ui/Checkbox'
import { Select } from '../../../ui/Field'
import { IconButton } from '../../../ui/IconButton'
import { ErrorNote } from '../../../ui/Notes'
import { Input } from '../../../ui/Input'
import { useSheet } from '../sheetContext'
import { CarryForward } from './CarryForward'
import { choicesOf, NO_FILTER, STATES } from './markFilter'
import { MarkItems } from './MarkItem'
import { MarksAway } from './MarksAway'
import type { Mark } from './useMarks'
import { readersKey, readersWords } from './useReaders'

/** The marks beside the sheet: one's own pencil first, then ink with its threads. */
export function MarkList({ above = null }: { above?: ReactNode }) {
  const { sheet, marks, acts, inks } = useSheet()
  const [filtering, setFiltering] = useState(false)
  return (
    <aside
      aria-label="Marks"
      aria-busy={marks.service.list.isPending}
      className="flex h-full w-[340px] shrink-0 flex-col border-l border-line bg-surface max-md:absolute max-md:right-0 max-md:z-20 max-md:max-w-[calc(100%-40px)]"
    >
      {above}
      <ErrorNote error={acts.trouble ?? marks.service.trouble()} />
      <Head filtering={filtering} onFiltering={setFiltering} />
      {filtering && <Filters />}
      <LeftOut />
      <InkFor />
      <div className="min-h-0 flex-1 overflow-auto">
        {sheet.may_mark && !sheet.let_in && sheet.standing.kind !== 'superseded' && (
          <CarryForward revisionId={sheet.revision_id} inks={inks} />
        )}
        <Pencil />
        <Ink />
      </div>
    </aside>
  )
}

function Head({ filtering, onFiltering }: { filtering: boolean; onFiltering: (open: boolean) => void }) {
  const { sheet, marks, panes } = useSheet()
  const { all, filter, setFilter } = marks
  return (
    <div className="relative flex flex-wrap items-center gap-2 border-b border-line px-3 py-1.5">
      <Input
        keep="passing"
        small
        aria-label="Find in the marks"
        placeholder="Find in the marks"
        value={filter.words}
        onChange={(event) => setFilter({ ...filter, words: event.target.value })}
        className="min-w-0 flex-1"
      />
      <IconButton
        label={filtering ? 'Fewer filters' : 'More filters'}
        icon={<Filter size={15} aria-hidden />}
        onClick={() => onFiltering(!filtering)}
      />
      {!sheet.let_in && (
        <MarksAway
          revisionId={sheet.revision_id}
          ink={all.filter((mark) => mark.inked_at).length}
          some={all.filter((mark) => mark.readers.length > 0).length}
          mayMark={sheet.may_mark}
        />
      )}
      <span className="md:hidden">
        <IconButton label="Close" icon={<X size={15} aria-hidden />} onClick={() => panes.setList(false)} />
      </span>
    </div>
  )
}

/** In a session, for whom what is drawn in ink is: everybody who sees the sheet, its people, one's company. */
function InkFor() {
  const { room, sheet, marks } = useSheet()
  const { all, readers, choose } = marks.readers
  if (!room?.open || !sheet.may_mark || !room.ink || all.length < 2) return null
  return (
    <div className="border-b border-line px-3 py-1.5">
      <Select
        label="Ink is for"
        value={readersKey(readers)}
        onChange={choose}
        choices={all.map((each) => ({ code: readersKey(each), words: readersWords(each) }))}
      />
    </div>
  )
}

/** How many the filter hides. */
function LeftOut() {
  const { all, shown, setFilter } = useSheet().marks
  const hidden = all.length - shown.length
  if (!hidden) return null
  return (
    <p role="status" className="flex items-center justify-between border-b border-line px-3 py-1 text-list">
      {hidden} {hidden === 1 ? 'mark is' : 'marks are'} left out, here and on the sheet.
      <Button small onClick={() => setFilter(NO_FILTER)}>
        Show all
      </Button>
    </p>
  )
}

function Pencil() {
  const { marks, hand, page } = useSheet()
  const { shown } = marks
  const pencil = shown.filter((mark) => !mark.inked_at)
  if (!pencil.length && !marks.pencil.length) return null
  const chosen = marks.pencil.filter((mark) => hand.chosen.includes(mark.id))
  const here = marks.pencil.filter((mark) => mark.page === page)
  const all = marks.pencil.length
  // What is offered first is what `p` does; the others only where they are something else.
  const scopes: [string, Mark[]][] = [
    ...(chosen.length && chosen.length < all
      ? [[chosen.length === 1 ? 'the chosen one' : `the ${chosen.length} chosen`, chosen] as [string, Mark[]]]
      : []),
    ...(here.length && here.length < all ? [[`this page’s ${here.length}`, here] as [string, Mark[]]] : []),
    [all === 1 ? '1 mark' : `all ${counted(all, 'mark')}`, marks.pencil],
  ]
  return (
    <section aria-label="Pencil">
      <header className="border-b border-line bg-paper px-3 py-2">
        <div className="flex flex-wrap items-center justify-between gap-x-2 gap-y-1">
          <div>
            <h2 className="text-body font-semibold">Pencil</h2>
            <p className="text-note text-second">Only you see these.</p>
          </div>
          {all > 0 && <InkButtons scopes={scopes} />}
        </div>
      </header>
      <MarkItems marks={pencil} />
    </section>
  )
}

/** What is inked is its readers' for good: who these are, how many marks, and whether some of them are hidden now. */
function InkButtons({ scopes }: { scopes: [string, Mark[]][] }) {
  const { marks } = useSheet()
  const shown = new Set(marks.shown.map((mark) => mark.id))
  const hidden = (scopes[0]?.[1] ?? []).filter((mark) => !shown.has(mark.id)).length
  const { all, readers, choose, known } = marks.readers
  return (
    <div className="flex flex-wrap items-end justify-end gap-1">
      {all.length > 1 && (
        <Select
          label="Ink it for"
          className="min-w-0 flex-1 basis-full"
          value={readersKey(readers)}
          onChange={choose}
          choices={all.map((each) => ({ code: readersKey(each), words: readersWords(each) }))}
        />
      )}
      {scopes.map(([words, those], place) => (
        <Button
          key={words}
          small
          look={place === 0 ? 'act' : 'quiet'}
          onClick={() => marks.ink(those)}
          busy={marks.service.ink.isPending}
          why={!known && 'Who may read it is still being fetched.'}
          title={`${readersWords(readers)} will read ${those.length === 1 ? 'it' : 'them'}, for good${place === 0 ? ' (p)' : ''}`}
        >
          Ink {words}
        </Button>
      ))}
      {hidden > 0 && (
        <p className="w-full text-right text-note text-ochre">
          {hidden} of them {hidden === 1 ? 'is' : 'are'} left out by the filter.
        </p>
      )}
    </div>
  )
}

function Ink() {
  const { sheet, marks } = useSheet()
  const { all, shown, service } = marks
  const ink = shown.filter((mark) => mark.inked_at)
  return (
    <section aria-label="Ink">
      <header className="border-b border-line bg-paper px-3 py-2">
        <h2 className="text-body font-semibold">
          Ink <span className="font-normal text-second">{ink.length || ''}</span>
        </h2>
      </header>
      {service.list.data && ink.length === 0 && all.length === shown.length && (
        <p className="px-3 py-3 text-second">
          {sheet.may_mark
            ? 'Nobody has marked this revision. Take a pen below: a mark begins in pencil, and only you see it until you ink it.'
            : 'Nobody has marked this revision.'}
        </p>
      )}
      <MarkItems marks={ink} />
    </section>
  )
}

function Filters() {
  const { project, me } = useSeat()
  const { all, filter, setFilter } = useSheet().marks
  const forMe = all.filter((mark) => mark.meant_for?.id === me.person.id).length
  const any = { code: '', words: 'any' }
  const fields = [
    ['author', 'Author', choicesOf(all, ({ author }) => ({ code: author.id, words: author.name }))],
    ['company', 'Company', choicesOf(all, ({ author }) => ({ code: author.company, words: author.company }))],
    ['state', 'State', Object.entries(STATES).map(([code, words]) => ({ code, words }))],
    [
      'discipline',
      'Discipline',
      choicesOf(all, ({ discipline }) => ({
        code: discipline,
        words: project.disciplines[discipline] ?? discipline,
      })),
    ],
    ['label', 'Label', choicesOf(all, ({ label }) => ({ code: label, words: label }))],
    ['session', 'Session', choicesOf(all, (mark) => ({ code: mark.session_id, words: mark.session }))],
  ] as const
  return (
    <div className="grid grid-cols-2 gap-2 border-b border-line px-3 py-2">
      {fields.map(([key, words, choices]) => (
        <Select
          key={key}
          label={words}
          value={filter[key]}
          onChange={(value) => setFilter({ ...filter, [key]: value })}
          choices={[any, ...choices]}
        />
      ))}
      <Checkbox
        label={`For me (${forMe})`}
        checked={filter.meant !== ''}
        onChange={(on) => setFilter({ ...filter, meant: on ? me.person.id : '' })}
      />
    </div>
  )
}
