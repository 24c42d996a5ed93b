import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { counted } from '../../../domain/counted'
import type { Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { ReadingsTable } from './ReadingsTable'
import { ZoneCanvas } from './ZoneCanvas'
import { ZoneList } from './ZoneList'
import { useBatch, useLook, type Batch, type Look } from '../useIntake'
import {
  useKeepReader,
  useReaders,
  useRemoveReader,
  useTried,
  type Draft,
  type Reader,
  type Zone,
} from './useReader'
import { useField, useKept } from '../../../ui/useKept'
import { isLost } from '../../../api/fetched'

/** Zones are drawn on a sheet at the left; at the right is what they read, on all sheets of the batch. */
export function ReaderPage() {
  const { batchId = '' } = useParams({ strict: false })
  const { arrival = '' } = useSearch({ strict: false })
  const batch = useBatch(batchId)
  const readers = useReaders(batchId)
  if (isLost(batch) || isLost(readers)) return <ErrorNote error={batch.error ?? readers.error} />
  if (!batch.data || !readers.data) return <Loading what="the sheets" />
  const shown = arrival || batch.data.arrivals.find((each) => each.can_look)?.id
  if (!shown) return <p className="p-6 text-second">There is no sheet in this batch that can be looked at.</p>
  return <OnSheet key={batchId} batch={batch.data} readers={readers.data} arrivalId={shown} />
}

interface OnSheetProps {
  batch: Batch
  readers: Schemas['Readers']
  arrivalId: string
}

function OnSheet({ batch, readers, arrivalId }: OnSheetProps) {
  const look = useLook(arrivalId, '')
  const [page, setPage] = useState(0)
  const sheet = look.data?.pages[page] ?? look.data?.pages[0]
  if (isLost(look)) return <ErrorNote error={look.error} />
  if (!look.data || !sheet) return <Loading what="the sheet" />
  const size = { width: sheet.width_mm, height: sheet.height_mm }
  return (
    <Drawing
      batch={batch}
      readers={readers}
      look={look.data}
      page={Math.min(page, look.data.pages.length - 1)}
      onPage={setPage}
      first={beginWith(batch, readers.readers, arrivalId, size, sheet.size_name)}
    />
  )
}

const NEAR_MM = 3

/** The reader that reads this sheet, or one for its size, or an empty one. */
function beginWith(
  batch: Batch,
  readers: Reader[],
  arrivalId: string,
  size: { width: number; height: number },
  sizeName: string,
): Draft {
  const used = batch.arrivals.find((each) => each.id === arrivalId)?.reader_id
  const fits = (each: Reader) =>
    Math.abs(each.width_mm - size.width) <= NEAR_MM && Math.abs(each.height_mm - size.height) <= NEAR_MM
  const found = readers.find((each) => each.id === used) ?? readers.find(fits)
  if (found) return draftOf(found)
  const company = batch.line.came_from
  return { id: '', version: 0, name: `${company}, ${sizeName}`, company, ...size, zones: [] }
}

function draftOf(reader: Reader): Draft {
  return {
    id: reader.id,
    version: reader.version,
    name: reader.name,
    company: reader.company,
    width: reader.width_mm,
    height: reader.height_mm,
    zones: reader.zones,
  }
}

interface DrawingProps extends Pick<OnSheetProps, 'batch' | 'readers'> {
  look: Look
  page: number
  onPage: (page: number) => void
  first: Draft
}

function Drawing({ batch, readers, look, page, onPage, first }: DrawingProps) {
  const batchId = batch.line.id
  const navigate = useNavigate()
  const form = useKept('zones', `${batchId} ${first.id} ${first.name}`, first.name)
  const [draft, setDraft] = useField(form, 'draft', first)
  const [chosen, setChosen] = useState(0)
  const [field, setField] = useState('')
  const tried = useTried(batchId, draft)
  const fields = [...readers.fields, { field: readers.not_compared, words: 'Not compared' }]
  const keep = useKeepReader(batchId)
  const remove = useRemoveReader(batchId)
  const sheet = look.pages[page]
  if (!sheet) return null
  const size = { width: sheet.width_mm, height: sheet.height_mm }
  const here = tried.data?.pages.find((each) => each.arrival_id === look.id && each.page === page)

  function setZone(place: number, zone: Zone) {
    setDraft((old) => ({ ...old, zones: old.zones.map((each, at) => (at === place ? zone : each)) }))
  }

  function add(zone: Zone) {
    setDraft((old) => {
      const zones = [...old.zones, zone]
      setChosen(zones.length - 1)
      return { ...old, ...size, zones }
    })
    setField('')
  }

  const back = { to: '/intake/$batchId', params: { batchId }, search: {} } as const
  return (
    <div data-wide className="relative flex h-full min-h-0 max-md:flex-col max-md:overflow-auto">
      <div className="relative min-w-0 flex-1">
        <ZoneCanvas
          look={look}
          page={page}
          zones={draft.zones}
          fields={fields}
          chosen={chosen}
          drawingField={field}
          onChoose={setChosen}
          onDraw={(placed) => add({ field, label: '', pattern: '', lines: 'joined', ...placed })}
          onChange={(place, placed) => {
            const old = draft.zones[place]
            if (old) setZone(place, { ...old, ...placed })
          }}
        />
        <div className="absolute top-0 left-0 border-r border-b border-line bg-surface px-3 py-1.5 text-list">
          <p className="code max-w-[420px] truncate font-semibold" title={look.file_name}>
            {look.file_name}
          </p>
          <p className="text-second">
            {sheet.size_name}, page {page + 1} of {look.pages.length}
            {field ? ` · draw the zone for ${field}` : ''}
          </p>
        </div>
      </div>
      <aside
        aria-label="Block reader"
        className="flex w-[500px] shrink-0 flex-col border-l border-line bg-surface max-md:w-full max-md:border-t max-md:border-l-0"
      >
        <header className="flex flex-wrap items-end gap-2 border-b border-line px-4 py-3">
          <h1 className="w-full text-head font-semibold">Read title blocks</h1>
          {readers.readers.length > 0 && (
            <Select
              label="Reader"
              className="w-full"
              value={draft.id}
              onChange={(id) => {
                const found = readers.readers.find((each) => each.id === id)
                setDraft(found ? draftOf(found) : { ...first, id: '', version: 0, ...size, zones: [] })
                setChosen(0)
              }}
              choices={[
                { code: '', words: 'A new reader' },
                ...readers.readers.map((each) => ({
                  code: each.id,
                  words: `${each.name} (${Math.round(each.width_mm)} × ${Math.round(each.height_mm)} mm)`,
                })),
              ]}
            />
          )}
          <TextField
            keep={form}
            label="Name"
            className="min-w-0 flex-1"
            value={draft.name}
            onChange={(event) => setDraft({ ...draft, name: event.target.value })}
          />
          <TextField
            keep={form}
            label="Company"
            className="min-w-0 flex-1"
            value={draft.company}
            onChange={(event) => setDraft({ ...draft, company: event.target.value })}
          />
        </header>
        <div className="max-h-[46%] shrink-0 overflow-auto border-b border-second/40">
          <ZoneList
            keep={form}
            zones={draft.zones}
            size={size}
            chosen={chosen}
            fields={fields}
            drawingField={field}
            read={here?.fields ?? {}}
            onChoose={setChosen}
            onField={setField}
            onAdd={add}
            onChange={setZone}
            onRemove={(place) => {
              setDraft({ ...draft, zones: draft.zones.filter((_, at) => at !== place) })
              setChosen(0)
            }}
          />
        </div>
        <div className="min-h-0 flex-1 overflow-auto">
          {draft.zones.length > 0 && (
            <ReadingsTable
              tried={tried.data}
              zones={draft.zones}
              fields={fields}
              at={{ arrivalId: look.id, page }}
              onShow={(arrivalId, shownPage) => {
                onPage(shownPage)
                void navigate({
                  to: '/intake/$batchId/reader',
                  params: { batchId },
                  search: { arrival: arrivalId },
                  replace: true,
                })
              }}
            />
          )}
        </div>
        <ErrorNote error={keep.error ?? remove.error ?? tried.error} />
        <footer className="flex items-center gap-2 border-t border-line px-4 py-2.5">
          <Button
            look="act"
            busy={keep.isPending}
            why={
              !draft.zones.length
                ? 'Draw a zone first.'
                : !draft.name.trim() && 'Give the reader a name first.'
            }
            onClick={() =>
              keep.mutate(draft, {
                onSuccess: () => {
                  form.drop()
                  void navigate(back)
                },
              })
            }
          >
            Keep and read {tried.data ? counted(tried.data.pages.length, 'page') : 'the batch'}
          </Button>
          <Link {...back} className="inline-flex min-h-6 items-center px-2 text-plum underline">
            Back to the batch
          </Link>
          <span className="flex-1" />
          {draft.id && (
            <Button
              small
              look="stop"
              busy={remove.isPending}
              onClick={() =>
                remove.mutate(draft, {
                  onSuccess: () => {
                    form.drop()
                    void navigate(back)
                  },
                })
              }
            >
              Remove the reader
            </Button>
          )}
        </footer>
      </aside>
    </div>
  )
}
