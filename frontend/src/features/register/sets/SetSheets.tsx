import { Link, useNavigate } from '@tanstack/react-router'
import { ArrowDown, ArrowUp, X } from 'lucide-react'
import { useState } from 'react'

import { useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { idsForAddress } from '../../../ui/chosen'
import { Following } from '../../../ui/Following'
import { IconButton } from '../../../ui/IconButton'
import { Input } from '../../../ui/Input'
import { Empty, ErrorNote } from '../../../ui/Notes'
import { ShareDialog } from '../../../ui/ShareDialog'
import { useSetActs, type DrawingSet } from './useSets'
import { useField, useKept } from '../../../ui/useKept'
import { DateField } from '../../../ui/DateField'

/** What is begun with all its sheets. */
function ActsOnAll({ set }: { set: DrawingSet }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [giving, setGiving] = useState(false)
  if (!set.may_change || set.sheets.length === 0) return null
  return (
    <>
      {project.tools.includes('reviews') && (
        <Button
          onClick={() =>
            void navigate({
              to: '/reviews/new',
              search: { documents: idsForAddress(set.sheets.map((sheet) => sheet.id)) },
            })
          }
        >
          Start a review
        </Button>
      )}
      {project.tools.includes('sessions') && (
        <Button
          onClick={() =>
            void navigate({
              to: '/sessions/new',
              search: { revisions: idsForAddress(set.sheets.map((sheet) => sheet.revision_id)) },
            })
          }
        >
          Make a session
        </Button>
      )}
      {project.tools.includes('transmittals') && (
        <Button onClick={() => void navigate({ to: '/transmittals/new', search: { set: set.id } })}>
          Send the set
        </Button>
      )}
      <Button onClick={() => setGiving(true)}>Give a link …</Button>
      {giving && (
        <ShareDialog
          kind="shared_set"
          target={set.id}
          words={`the drawing set ${set.name}`}
          onClose={() => setGiving(false)}
        />
      )}
    </>
  )
}

/** A set's sheets in their order: moved and taken out; each act can be taken back. */
export function SetSheets({ set, onGone }: { set: DrawingSet; onGone: (set: DrawingSet) => void }) {
  const acts = useSetActs()
  const navigate = useNavigate()
  const form = useKept('drawing-set', set.id, set.name)
  const [name, setName] = useField(form, 'name', set.name)
  const [on, setOn] = useField(form, 'on', set.on ?? '')
  const [before, setBefore] = useState<string[] | null>(null)
  const ids = set.sheets.map((sheet) => sheet.id)
  const put = (documents: string[], undo = true) =>
    acts.put.mutate(
      { id: set.id, version: set.version, documents },
      { onSuccess: (done) => setBefore(undo ? done.before : null) },
    )

  function move(place: number, step: number) {
    const target = place + step
    if (target < 0 || target >= ids.length) return
    const next = [...ids]
    const [taken] = next.splice(place, 1)
    if (taken) next.splice(target, 0, taken)
    put(next)
  }

  const changed = name.trim() !== set.name || on !== (set.on ?? '')
  return (
    <div className="flex h-full flex-col">
      <form
        className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2"
        onSubmit={(event) => {
          event.preventDefault()
          acts.change.mutate({ set, name, on }, { onSuccess: form.drop })
        }}
      >
        <Input
          keep={form}
          aria-label="Name of the set"
          className="w-[240px] font-semibold"
          disabled={!set.may_change}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <DateField
          keep={form}
          hideLabel
          label="Date of the set"
          className="w-[150px]"
          disabled={!set.may_change}
          value={on}
          onChange={setOn}
        />
        {changed && (
          <Button type="submit" look="act" busy={acts.change.isPending}>
            Save
          </Button>
        )}
        <Following kind="drawing_set" target={set.id} words="this set" />
        <span className="ml-auto text-second">
          {set.sheets.length} {set.sheets.length === 1 ? 'sheet' : 'sheets'}
        </span>
        <Button
          onClick={() => void navigate({ to: '/register', search: { filters: [['sets', 'is', set.id]] } })}
        >
          Show in the register
        </Button>
        <ActsOnAll set={set} />
        {set.may_change && (
          <Button
            look="stop"
            onClick={() =>
              acts.remove.mutate(set, {
                onSuccess: () => {
                  onGone(set)
                  void navigate({ to: '/register/sets', search: {} })
                },
              })
            }
          >
            Take the set away
          </Button>
        )}
      </form>
      <ErrorNote error={acts.put.error ?? acts.change.error ?? acts.remove.error} />
      {before && (
        <div role="status" className="flex items-center gap-3 border-b border-line bg-spruce-tint px-4 py-1">
          The set was changed.
          <Button small onClick={() => put(before, false)}>
            Undo
          </Button>
        </div>
      )}
      {set.sheets.length === 0 ? (
        <Empty>
          No sheets yet. In the register mark some, then Add to a drawing set; or take a whole list there.
        </Empty>
      ) : (
        <ol className="min-h-0 flex-1 overflow-auto">
          {set.sheets.map((sheet, place) => (
            <li
              key={sheet.id}
              className="flex h-9 items-center gap-3 border-b border-line/70 px-4 text-list"
              style={{ contentVisibility: 'auto', containIntrinsicSize: '36px' }}
            >
              <span className="w-8 text-right text-second tabular-nums">{place + 1}</span>
              <Link
                to="/sheet/$revisionId"
                params={{ revisionId: sheet.revision_id }}
                className="code inline-flex min-h-6 items-center text-plum underline"
              >
                {sheet.number}
              </Link>
              <span className="code font-bold">{sheet.revision}</span>
              <span className="code text-second">{sheet.status}</span>
              <span className="min-w-0 flex-1 truncate">
                {sheet.title}
                {sheet.withdrawn && <span className="text-brick">, withdrawn</span>}
              </span>
              {set.may_change && (
                <span className="flex">
                  <IconButton
                    label={`Move ${sheet.number} up`}
                    disabled={place === 0 || acts.put.isPending}
                    onClick={() => move(place, -1)}
                    icon={<ArrowUp size={14} />}
                  />
                  <IconButton
                    label={`Move ${sheet.number} down`}
                    disabled={place === ids.length - 1 || acts.put.isPending}
                    onClick={() => move(place, 1)}
                    icon={<ArrowDown size={14} />}
                  />
                  <IconButton
                    label={`Take ${sheet.number} out`}
                    disabled={acts.put.isPending}
                    onClick={() => put(ids.filter((id) => id !== sheet.id))}
                    icon={<X size={14} />}
                  />
                </span>
              )}
            </li>
          ))}
        </ol>
      )}
    </div>
  )
}
