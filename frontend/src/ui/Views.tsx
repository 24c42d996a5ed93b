import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Bookmark, Trash2, Users } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../api/client'
import { useSeat } from '../api/me'
import { Button } from './Button'
import { Checkbox } from './Checkbox'
import { TextField } from './Field'
import { ErrorNote } from './Notes'
import { useField, useKept } from './useKept'

type SavedView = Schemas['SavedView']
type Content = SavedView['content']

interface Props {
  /** The station whose list it is. */
  of: NonNullable<Schemas['KeepView']['of']>
  /** What the list shows now, and what is shown of it by what was kept. */
  now: object
  read: (content: Content) => object
  onOpen: (content: Content) => void
}

/** Views that were kept: one's own, and those shared with everybody. */
export function Views({ of, now, read, onOpen }: Props) {
  const { project } = useSeat()
  const [open, setOpen] = useState(false)
  const [gone, setGone] = useState<SavedView | null>(null)
  const views = useQuery({
    queryKey: ['views', project.id, of],
    queryFn: () =>
      unwrap(api.GET('/api/register/views', { params: { query: { project_id: project.id, of } } })),
  })
  const all = views.data ?? []
  const shown = JSON.stringify(now)
  const current = all.find((view) => JSON.stringify(read(view.content)) === shown)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button aria-label={current ? `Views: ${current.name}` : 'Views'} title="Views">
          <Bookmark size={14} aria-hidden />
          <span className={current ? 'max-w-[160px] truncate' : 'hidden @4xl:inline'}>
            {current ? current.name : 'Views'}
          </span>
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="z-30 w-[340px] border border-second bg-surface"
          sideOffset={4}
          align="end"
          aria-label="Views"
        >
          {all.length === 0 && (
            <p className="px-3 pt-3 text-second">No view is kept yet. Narrow the list, then keep it here.</p>
          )}
          <ul className="max-h-[280px] overflow-auto">
            {all.map((view) => (
              <ViewLine
                key={view.id}
                view={view}
                current={view === current}
                onGone={setGone}
                onOpen={() => {
                  setOpen(false)
                  onOpen(view.content)
                }}
              />
            ))}
          </ul>
          {gone && <KeepAgain of={of} view={gone} onGone={() => setGone(null)} />}
          <KeepForm of={of} now={now} mine={all.filter((view) => view.mine)} onKept={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

interface LineProps {
  view: SavedView
  current: boolean
  onOpen: () => void
  onGone: (view: SavedView) => void
}

function ViewLine({ view, current, onOpen, onGone }: LineProps) {
  const client = useQueryClient()
  const remove = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/register/views/{view_id}/remove', {
          params: { path: { view_id: view.id } },
          body: { version: view.version },
        }),
      ),
    onSuccess: () => view.mine && onGone(view),
    onSettled: () => client.invalidateQueries({ queryKey: ['views'] }),
  })
  return (
    <li className="flex items-center gap-2 border-b border-line px-3 hover:bg-paper">
      <button
        type="button"
        className={`min-w-0 flex-1 py-2 text-left ${current ? 'font-semibold' : ''}`}
        onClick={onOpen}
      >
        <span className="block truncate">{view.name}</span>
        {!view.mine && <span className="text-note text-second">by {view.by}</span>}
      </button>
      {view.shared && (
        <span title="shared with everybody" className="text-second">
          <Users size={14} aria-label="shared" />
        </span>
      )}
      {view.may_remove && (
        <button
          type="button"
          aria-label={`Remove the view ${view.name}`}
          className="p-1.5 text-second hover:text-brick"
          onClick={() => remove.mutate()}
        >
          <Trash2 size={14} />
        </button>
      )}
      <ErrorNote error={remove.error} />
    </li>
  )
}

/** A view of one's own that was removed can be kept again. */
function KeepAgain({ of, view, onGone }: Pick<Props, 'of'> & { view: SavedView; onGone: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const { name, shared, content } = view
  const keep = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/register/views', {
          body: { project_id: project.id, of, id: '', version: 0, name, shared, content },
        }),
      ),
    onSuccess: onGone,
    onSettled: () => client.invalidateQueries({ queryKey: ['views'] }),
  })
  return (
    <div role="status" className="flex items-center gap-2 bg-spruce-tint px-3 py-1.5">
      <span className="min-w-0 flex-1 truncate">{name} was removed.</span>
      <Button small busy={keep.isPending} onClick={() => keep.mutate()}>
        Undo
      </Button>
      <ErrorNote error={keep.error} />
    </div>
  )
}

interface KeepProps extends Pick<Props, 'of' | 'now'> {
  mine: readonly SavedView[]
  onKept: () => void
}

/** A name that one's own view has already changes that view. */
function KeepForm({ of, now, mine, onKept }: KeepProps) {
  const { project } = useSeat()
  const client = useQueryClient()
  const form = useKept('keep-view', of === 'register' ? project.id : `${project.id} ${of}`)
  const [name, setName] = useField(form, 'name', '')
  const [shared, setShared] = useField(form, 'shared', false)
  const same = mine.find((view) => view.name.toLowerCase() === name.trim().toLowerCase())
  const keep = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/register/views', {
          body: {
            project_id: project.id,
            of,
            id: same?.id ?? '',
            version: same?.version ?? 0,
            name,
            shared,
            content: { ...now },
          },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['views'] })
      form.drop()
      onKept()
    },
  })
  return (
    <form
      className="flex flex-col gap-2 p-3"
      onSubmit={(event) => {
        event.preventDefault()
        keep.mutate()
      }}
    >
      <TextField
        keep={form}
        label="Keep this view as"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Checkbox label="For everybody in the project" checked={shared} onChange={setShared} />
      <ErrorNote error={keep.error} />
      <Button
        type="submit"
        look="act"
        busy={keep.isPending}
        why={!name.trim() && 'Give it a name first.'}
        className="self-end"
      >
        {same ? `Change ${same.name}` : 'Keep the view'}
      </Button>
    </form>
  )
}
