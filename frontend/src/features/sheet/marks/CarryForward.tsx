import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { ErrorNote } from '../../../ui/Notes'
import { KindIcon, kindWords } from './KindIcon'
import { isLost } from '../../../api/fetched'

type CarryList = Schemas['CarryList']
type Found = CarryList['marks'][number]

interface Props {
  revisionId: string
  inks: Record<string, string>
}

function useCarry(revisionId: string) {
  const client = useQueryClient()
  const path = { params: { path: { revision_id: revisionId } } }
  const list = useQuery({
    queryKey: ['carry', revisionId],
    queryFn: () => unwrapAs<CarryList>(api.GET('/api/sheets/{revision_id}/carry', path)),
  })
  const carry = useMutation({
    mutationFn: (marks: readonly Found[]) => {
      const body = { marks: marks.map(({ mark }) => mark.id) }
      return unwrap(api.POST('/api/sheets/{revision_id}/carry', { ...path, body }))
    },
    onSettled: () =>
      Promise.all(
        (['carry', 'marks'] as const).map((key) => client.invalidateQueries({ queryKey: [key, revisionId] })),
      ),
  })
  return { list, carry }
}

/** Open marks of the revision before, to be carried here one by one or all. */
export function CarryForward({ revisionId, inks }: Props) {
  const [open, setOpen] = useState(false)
  const { list, carry } = useCarry(revisionId)
  if (isLost(list)) return <ErrorNote error={list.error} again={() => void list.refetch()} />
  if (!list.data || (!list.data.marks.length && !list.data.pages_gone)) return null
  return (
    <section aria-label="Carry forward" className="border-b border-line">
      <Head list={list.data} open={open} onOpen={setOpen} />
      <ErrorNote error={carry.error} />
      {open && (
        <>
          <ul>
            {list.data.marks.map((found) => (
              <Line
                key={found.mark.id}
                found={found}
                inks={inks}
                busy={carry.isPending}
                onCarry={() => carry.mutate([found])}
              />
            ))}
          </ul>
          <Several found={list.data.marks} busy={carry.isPending} onCarry={(some) => carry.mutate(some)} />
        </>
      )}
    </section>
  )
}

interface HeadProps {
  list: CarryList
  open: boolean
  onOpen: (open: boolean) => void
}

function Head({ list: { marks, from_revision, pages_gone }, open, onOpen }: HeadProps) {
  return (
    <header className="bg-paper px-3 py-2">
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full items-center gap-2 text-left"
        onClick={() => onOpen(!open)}
      >
        <span aria-hidden>{open ? '▾' : '▸'}</span>
        <span>
          <span className="font-semibold">{marks.length} open</span> {marks.length === 1 ? 'mark' : 'marks'}{' '}
          of <span className="code">{from_revision}</span> can come along
        </span>
      </button>
      {pages_gone > 0 && (
        <p className="text-note text-ochre">
          △ {pages_gone} {pages_gone === 1 ? 'lies' : 'lie'} on pages that this revision does not have.
        </p>
      )}
    </header>
  )
}

interface LineProps {
  found: Found
  inks: Record<string, string>
  busy: boolean
  onCarry: () => void
}

function Line({ found: { mark, touched }, inks, busy, onCarry }: LineProps) {
  return (
    <li className="flex items-center gap-2 border-t border-line/60 px-3 py-1">
      <KindIcon kind={mark.kind} symbol={mark.look.symbol ?? ''} colour={inks[mark.look.colour ?? 'red']} />
      <span className="min-w-0 flex-1">
        <span className="block truncate" title={mark.text}>
          {mark.text || kindWords(mark.kind, mark.look.symbol ?? '')}
        </span>
        <span className="block text-note text-second">
          {mark.author.name} · <Touched touched={touched} />
        </span>
      </span>
      <Button small busy={busy} onClick={onCarry}>
        Carry
      </Button>
    </li>
  )
}

interface SeveralProps {
  found: readonly Found[]
  busy: boolean
  onCarry: (some: readonly Found[]) => void
}

function Several({ found, busy, onCarry }: SeveralProps) {
  if (found.length < 2) return null
  const untouched = found.filter((each) => !each.touched)
  return (
    <div className="flex gap-1.5 border-t border-line/60 px-3 py-2">
      <Button small look="act" busy={busy} onClick={() => onCarry(found)}>
        Carry all {found.length}
      </Button>
      {untouched.length > 0 && untouched.length < found.length && (
        <Button small busy={busy} onClick={() => onCarry(untouched)}>
          Only the {untouched.length} untouched
        </Button>
      )}
    </div>
  )
}

/** Whether the drawing under a mark has changed. */
export function Touched({ touched }: { touched: boolean }) {
  return touched ? (
    <span className="font-medium text-ochre">△ touched</span>
  ) : (
    <span>untouched: the drawing there is as it was</span>
  )
}
