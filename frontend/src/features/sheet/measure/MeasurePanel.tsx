import { Trash2, X } from 'lucide-react'
import { useState, type FormEvent } from 'react'

import { download } from '../../../api/download'
import type { MarkKind } from '../../../domain/drawing'
import { Button } from '../../../ui/Button'
import { IconButton } from '../../../ui/IconButton'
import { Input } from '../../../ui/Input'
import { ErrorNote } from '../../../ui/Notes'
import { KIND_WORDS, KindIcon } from '../marks/KindIcon'
import type { Hand } from '../marks/useHand'
import type { Pen } from '../marks/usePens'
import { useMeasures, type NewScale, type Scales, type ShownScale } from './useScales'
import { useField, useKept } from '../../../ui/useKept'
import { useSheet } from '../sheetContext'

const TOOLS: readonly MarkKind[] = ['distance', 'path', 'area', 'perimeter', 'angle', 'count']
const INK = 'violet'
const LOOK = { colour: INK, weight_mm: 0.35, fill: '', opacity: 1, dashed: false, type_mm: 3.5, symbol: '' }

interface Props {
  revisionId: string
  page: number
  scales: Scales
  hand: Hand
  inks: Record<string, string>
  onShow: (scale: ShownScale) => void
  onClose: () => void
}

type Asking = Partial<Pick<NewScale, 'box' | 'points' | 'aim_pt'>>

function measuringPen(kind: MarkKind): Pen {
  return { name: KIND_WORDS[kind], kind, look: LOOK, label: '', text: '', discipline: '', ink: '' }
}

/** Measuring: what with, by which scale, and what it comes to. */
export function MeasurePanel(props: Props) {
  const { revisionId, scales, hand, inks, onClose } = props
  const known = scales.list.data
  return (
    <section
      aria-label="Measure"
      data-panel
      className="absolute top-[170px] left-3 flex max-h-[calc(100%-240px)] w-[330px] flex-col overflow-auto border border-second bg-surface text-list"
    >
      <header className="flex items-center justify-between border-b border-line px-2.5 py-1">
        <h2 className="text-body font-semibold">Measure</h2>
        <IconButton label="Close" icon={<X size={15} aria-hidden />} onClick={onClose} />
      </header>
      {known?.may_set && <Tools hand={hand} inks={inks} />}
      <ErrorNote error={scales.set.error ?? scales.remove.error ?? scales.list.error} />
      {known && <PageScales {...props} known={known} />}
      <Totals revisionId={revisionId} />
    </section>
  )
}

function Tools({ hand, inks }: Pick<Props, 'hand' | 'inks'>) {
  return (
    <div role="group" aria-label="What is measured" className="grid grid-cols-3 border-b border-line">
      {TOOLS.map((kind) => (
        <button
          key={kind}
          type="button"
          aria-pressed={hand.pen?.kind === kind && hand.pen.look?.colour === INK}
          className="flex items-center gap-1.5 px-2.5 py-1.5 hover:bg-paper aria-pressed:bg-plum-tint aria-pressed:text-plum"
          onClick={() => hand.take(measuringPen(kind))}
        >
          <KindIcon kind={kind} symbol="" colour={inks[INK]} />
          {KIND_WORDS[kind]}
        </button>
      ))}
    </div>
  )
}

type Known = NonNullable<Scales['list']['data']>

/** The scales of the page, and another: typed, or shown on the sheet. */
function PageScales({ page, scales, hand, onShow, known }: Props & { known: Known }) {
  const [asking, setAsking] = useState<Asking | null>(null)
  const here = known.scales.filter((each) => each.page === page)
  const show = (kind: MarkKind, then: (points: [number, number][], aimPt: number) => void) =>
    hand.take(measuringPen(kind), then)
  const region = () =>
    show('rectangle', ([a, b]) => {
      if (a && b) setAsking({ box: [a[0], a[1], b[0], b[1]] })
    })
  const twoPlaces = () =>
    show('distance', (points, aimPt) =>
      setAsking((now) => ({ ...(now?.box ? { box: now.box } : {}), points, aim_pt: aimPt })),
    )
  const nothing = { ratio: '', distance: '', points: [], aim_pt: 0 }
  return (
    <>
      <h3 className="px-2.5 pt-1.5 font-semibold">Scale</h3>
      {here.length === 0 && (
        <p className="px-2.5 text-second">
          This page has no scale yet: what is measured is millimetres of paper.
          {known.title_block ? ` The title block says ${known.title_block}.` : ''}
        </p>
      )}
      <ul aria-label="Scales of this page">
        {here.map((each) => (
          <ScaleLine
            key={each.id}
            scale={each}
            mayRemove={known.may_set && each.how !== 'file'}
            onShow={() => onShow(each)}
            onRemove={() => scales.remove.mutate(each.id)}
          />
        ))}
      </ul>
      {known.may_set && (
        <ScaleForm
          key={JSON.stringify(asking)}
          asking={asking}
          titleBlock={known.title_block}
          onTwoPlaces={twoPlaces}
          onRegion={region}
          onDrop={() => setAsking(null)}
          onSet={(more, done) =>
            scales.set.mutate(
              { page, ...nothing, ...asking, ...more },
              {
                onSuccess: () => {
                  done()
                  setAsking(null)
                },
              },
            )
          }
        />
      )}
    </>
  )
}

interface LineProps {
  scale: ShownScale
  mayRemove: boolean
  onShow: () => void
  onRemove: () => void
}

/** How a scale came to be, in words. */
function howOf({ how, said }: ShownScale): string {
  if (how === 'points') return `${said} between two places`
  if (how === 'stated') return 'as stated'
  return said ? `from the file, ${said}` : 'from the file'
}

function ScaleLine({ scale, mayRemove, onShow, onRemove }: LineProps) {
  const sure = scale.share > 0 ? `sure to ${(200 * scale.share).toFixed(2)} %` : ''
  const more = [scale.set_by ? `set by ${scale.set_by.name}` : '', sure].filter(Boolean).join(' · ')
  return (
    <li className="border-b border-line/60 px-2.5 py-1">
      <div className="flex items-center gap-2">
        <span className="code font-bold">{scale.ratio || 'no scale'}</span>
        <span className="flex-1 truncate text-second">{howOf(scale)}</span>
        {scale.box && (
          <Button small onClick={onShow}>
            Region
          </Button>
        )}
        {mayRemove && (
          <IconButton
            label={`Take the scale ${scale.ratio} away`}
            icon={<Trash2 size={14} aria-hidden />}
            onClick={onRemove}
          />
        )}
      </div>
      {more && <p className="text-note text-second">{more}</p>}
      {scale.warning && (
        <p className="font-medium text-ochre">
          <span aria-hidden>△ </span>
          {scale.warning}
        </p>
      )}
    </li>
  )
}

interface FormProps {
  asking: Asking | null
  titleBlock: string
  onTwoPlaces: () => void
  onRegion: () => void
  onDrop: () => void
  onSet: (more: { ratio?: string; distance?: string }, done: () => void) => void
}

/** A scale that is typed, or two places with their distance; for the page or for a region. */
function ScaleForm({ asking, titleBlock, onTwoPlaces, onRegion, onDrop, onSet }: FormProps) {
  const byPlaces = !!asking?.points?.length
  const { sheet } = useSheet()
  const form = useKept(
    'scale',
    `${sheet.revision_id} ${asking ? JSON.stringify(asking) : 'page'}`,
    sheet.number,
  )
  const [text, setText] = useField(form, 'text', !asking && /^1:\d+$/.test(titleBlock) ? titleBlock : '')
  function submit(event: FormEvent) {
    event.preventDefault()
    onSet(byPlaces ? { distance: text } : { ratio: text }, form.drop)
  }
  return (
    <form className="flex flex-col gap-1.5 border-b border-line px-2.5 py-2" onSubmit={submit}>
      {asking && (
        <p role="status" className="flex items-center justify-between">
          {byPlaces ? 'How far apart are these two places?' : 'Which scale has this region?'}
          <Button small onClick={onDrop}>
            Drop
          </Button>
        </p>
      )}
      <div className="flex gap-1.5">
        <Input
          keep={form}
          small
          // The places have just been shown: their distance is typed next.
          // eslint-disable-next-line jsx-a11y/no-autofocus
          autoFocus={!!asking}
          aria-label={byPlaces ? 'Distance between the two places' : 'Scale'}
          placeholder={byPlaces ? '12.5 m or 12\'-6 1/2"' : '1:100'}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="min-w-0 flex-1"
        />
        <Button small type="submit" look="act" why={!text.trim() && 'Type a scale first, like 1:100.'}>
          {asking?.box ? 'Set for the region' : 'Set for the page'}
        </Button>
      </div>
      <div className="flex gap-1.5">
        <Button small onClick={onTwoPlaces}>
          Show two places
        </Button>
        {!asking?.box && (
          <Button small onClick={onRegion}>
            Only a region
          </Button>
        )}
      </div>
    </form>
  )
}

function Totals({ revisionId }: { revisionId: string }) {
  const measures = useMeasures(revisionId)
  const totals = measures.data?.totals ?? []
  return (
    <>
      <ErrorNote error={measures.error} />
      <h3 className="px-2.5 pt-1.5 font-semibold">Measured</h3>
      {totals.length === 0 ? (
        <p className="px-2.5 pb-2 text-second">Nothing yet. Labels put measures together in one total.</p>
      ) : (
        <table className="w-full">
          <thead>
            <tr className="text-left text-note text-second">
              <th className="px-2.5 font-medium">Label</th>
              <th className="font-medium">Of</th>
              <th className="px-2.5 text-right font-medium">Total</th>
            </tr>
          </thead>
          <tbody>
            {totals.map((each) => (
              <tr key={`${each.label} ${each.kind}`} className="border-t border-line/60">
                <td className="px-2.5 py-0.5">{each.label || <em className="text-second">none</em>}</td>
                <td>
                  {each.count} × {KIND_WORDS[each.kind as MarkKind].toLowerCase()}
                </td>
                <td className="code px-2.5 text-right">
                  {each.words || (each.uncalibrated ? 'no scale' : '–')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {totals.length > 0 && (
        <div className="flex gap-1.5 border-t border-line px-2.5 py-2">
          {(['xlsx', 'csv'] as const).map((form) => (
            <Button
              key={form}
              small
              onClick={() => download(`/api/sheets/${revisionId}/measures/export`, { form })}
            >
              What is in ink as {form.toUpperCase()}
            </Button>
          ))}
        </div>
      )}
    </>
  )
}
