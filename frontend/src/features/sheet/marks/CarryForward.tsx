import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, unwrapAs, type Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { ErrorNote } from '../../../ui/Notes'
import { KIND_WORDS, KindIcon } from './KindIcon'

type CarryList = Schemas['CarryList']

interface Props {
  revisionId: string
  inks: Record<string, string>
}

/** Open marks of the revision before, to be carried here one by one or all. */
export function CarryForward({ revisionId, inks }: Props) {
  const client = useQueryClient()
  const [open, setOpen] = useState(false)
  const path = { params: { path: { revision_id: revisionId } } }
  const list = useQuery({
    queryKey: ['carry', revisionId],
    queryFn: () => unwrapAs<CarryList>(api.GET('/api/sheets/{revision_id}/carry', path)),
  })
  const carry = useMutation({
    mutationFn: (marks: string[]) =>
      unwrap(api.POST('/api/sheets/{revision_id}/carry', { ...path, body: { marks } })),
    onSettled: () =>
      Promise.all(
        (['carry', 'marks'] as const).map((key) => client.invalidateQueries({ queryKey: [key, revisionId] })),
      ),
  })
  const found = list.data?.marks ?? []
  if (list.error) return <ErrorNote error={list.error} again={() => void list.refetch()} />
  if (!list.data || (!found.length && !list.data.pages_gone)) return null
  const untouched = found.filter((each) => !each.touched)
  const send = (marks: typeof found) => carry.mutate(marks.map(({ mark }) => mark.id))
  return (
    <section aria-label="Carry forward" className="border-b border-line">
      <header className="bg-paper px-3 py-2">
        <button
          type="button"
          aria-expanded={open}
          className="flex w-full items-center gap-2 text-left"
          onClick={() => setOpen(!open)}
        >
          <span aria-hidden>{open ? '▾' : '▸'}</span>
          <span>
            <span className="font-semibold">{found.length} open</span> {found.length === 1 ? 'mark' : 'marks'}{' '}
            of <span className="code">{list.data.from_revision}</span> can come along
          </span>
        </button>
        {list.data.pages_gone > 0 && (
          <p className="text-[12.5px] text-ochre">
            △ {list.data.pages_gone} {list.data.pages_gone === 1 ? 'lies' : 'lie'} on pages that this revision
            does not have.
          </p>
        )}
      </header>
      <ErrorNote error={carry.error} />
      {open && (
        <>
          <ul>
            {found.map(({ mark, touched }) => (
              <li key={mark.id} className="flex items-center gap-2 border-t border-line/60 px-3 py-1">
                <KindIcon
                  kind={mark.kind}
                  symbol={mark.look.symbol ?? ''}
                  colour={inks[mark.look.colour ?? 'red']}
                />
                <span className="min-w-0 flex-1">
                  <span className="block truncate" title={mark.text}>
                    {mark.text || KIND_WORDS[mark.kind]}
                  </span>
                  <span className="block text-[12.5px] text-second">
                    {mark.author.name} · <Touched touched={touched} />
                  </span>
                </span>
                <Button small disabled={carry.isPending} onClick={() => send([{ mark, touched }])}>
                  Carry
                </Button>
              </li>
            ))}
          </ul>
          {found.length > 1 && (
            <div className="flex gap-1.5 border-t border-line/60 px-3 py-2">
              <Button small look="act" disabled={carry.isPending} onClick={() => send(found)}>
                Carry all {found.length}
              </Button>
              {untouched.length > 0 && untouched.length < found.length && (
                <Button small disabled={carry.isPending} onClick={() => send(untouched)}>
                  Only the {untouched.length} untouched
                </Button>
              )}
            </div>
          )}
        </>
      )}
    </section>
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
