import { Filter } from 'lucide-react'
import { useState } from 'react'

import type { Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Select } from '../../../ui/Field'
import { IconButton } from '../../../ui/IconButton'
import { ErrorNote } from '../../../ui/Notes'
import { CarryForward } from './CarryForward'
import { choicesOf, NO_FILTER, STATES, type MarkFilter } from './markFilter'
import { MarkItem } from './MarkItem'
import { MarksAway } from './MarksAway'
import type { Acts } from './useActs'
import type { Mark, Marks } from './useMarks'

interface Props {
  /** Those that the filter leaves, and all there are. */
  marks: Mark[]
  all: Mark[]
  filter: MarkFilter
  onFilter: (filter: MarkFilter) => void
  service: Marks
  acts: Acts
  revisionId: string
  documentId: string
  revision: string
  superseded: boolean
  inks: Schemas['DrawnWith']['inks']
  mayMark: boolean
  chosen: ReadonlySet<string>
  /** The mark just drawn: its text is typed next. */
  fresh: string
  onChoose: (id: string) => void
  onInk: () => void
  onPen: (mark: Mark) => void
  onHole: (mark: Mark) => void
}

/** The marks beside the sheet: one's own pencil first, then ink with its threads. */
export function MarkList({ marks, all, filter, onFilter, service, acts, mayMark, onInk, ...rest }: Props) {
  const [filtering, setFiltering] = useState(false)
  const pencil = marks.filter((mark) => !mark.inked_at)
  const ink = marks.filter((mark) => mark.inked_at)
  const mine = all.filter((mark) => !mark.inked_at).length
  const error = acts.trouble ?? service.trouble()
  const hidden = all.length - marks.length
  const item = (mark: Mark) => (
    <MarkItem
      key={mark.id}
      mark={mark}
      service={service}
      acts={acts}
      mayMark={mayMark}
      open={rest.chosen.has(mark.id) && rest.chosen.size === 1}
      marked={rest.chosen.has(mark.id)}
      fresh={rest.fresh === mark.id}
      revisionId={rest.revisionId}
      documentId={rest.documentId}
      revision={rest.revision}
      inks={rest.inks}
      onChoose={rest.onChoose}
      onPen={rest.onPen}
      onHole={rest.onHole}
    />
  )
  return (
    <aside
      aria-label="Marks"
      aria-busy={service.list.isPending}
      className="flex h-full w-[340px] shrink-0 flex-col border-l border-line bg-surface"
    >
      <ErrorNote error={error} />
      <div className="relative flex flex-wrap items-center gap-2 border-b border-line px-3 py-1.5">
        <input
          aria-label="Find in the marks"
          placeholder="Find in the marks"
          value={filter.words}
          onChange={(event) => onFilter({ ...filter, words: event.target.value })}
          className="h-7 min-w-0 flex-1 rounded-[3px] border border-line bg-surface px-2 placeholder:text-second"
        />
        <IconButton
          label={filtering ? 'Fewer filters' : 'More filters'}
          icon={<Filter size={15} aria-hidden />}
          onClick={() => setFiltering(!filtering)}
        />
        <MarksAway revisionId={rest.revisionId} ink={all.length - mine} mayMark={mayMark} />
      </div>
      {filtering && <Filters all={all} filter={filter} onFilter={onFilter} />}
      {hidden > 0 && (
        <p
          role="status"
          className="flex items-center justify-between border-b border-line px-3 py-1 text-list"
        >
          {hidden} {hidden === 1 ? 'mark is' : 'marks are'} left out, here and on the sheet.
          <Button small onClick={() => onFilter(NO_FILTER)}>
            Show all
          </Button>
        </p>
      )}
      <div className="min-h-0 flex-1 overflow-auto">
        {mayMark && !rest.superseded && <CarryForward revisionId={rest.revisionId} inks={rest.inks} />}
        {pencil.length > 0 && (
          <section aria-label="Pencil">
            <header className="flex items-center justify-between gap-2 border-b border-line bg-paper px-3 py-2">
              <div>
                <h2 className="text-[14px] font-semibold">Pencil</h2>
                <p className="text-[12px] text-second">Only you see these.</p>
              </div>
              <Button
                small
                look="act"
                onClick={onInk}
                disabled={service.ink.isPending}
                title="Publish them to everybody in the project (p)"
              >
                Ink {mine} {mine === 1 ? 'mark' : 'marks'}
              </Button>
            </header>
            {pencil.map(item)}
          </section>
        )}
        <section aria-label="Ink">
          <header className="border-b border-line bg-paper px-3 py-2">
            <h2 className="text-[14px] font-semibold">
              Ink <span className="font-normal text-second">{ink.length || ''}</span>
            </h2>
          </header>
          {service.list.data && ink.length === 0 && hidden === 0 && (
            <p className="px-3 py-3 text-second">
              {mayMark
                ? 'Nobody has marked this revision. Take a pen below: a mark begins in pencil, and only you see it until you ink it.'
                : 'Nobody has marked this revision.'}
            </p>
          )}
          {ink.map(item)}
        </section>
      </div>
    </aside>
  )
}

interface FiltersProps {
  all: Mark[]
  filter: MarkFilter
  onFilter: (filter: MarkFilter) => void
}

function Filters({ all, filter, onFilter }: FiltersProps) {
  const { project } = useSeat()
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
  ] as const
  return (
    <div className="grid grid-cols-2 gap-2 border-b border-line px-3 py-2">
      {fields.map(([key, words, choices]) => (
        <Select
          key={key}
          label={words}
          value={filter[key]}
          onChange={(value) => onFilter({ ...filter, [key]: value })}
          choices={[any, ...choices]}
        />
      ))}
    </div>
  )
}
