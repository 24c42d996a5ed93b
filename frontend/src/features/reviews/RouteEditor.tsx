import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { useNewLine } from '../../ui/useNewLine'
import { ChooseMany } from '../../ui/ChooseMany'
import { RouteEnds } from './RouteEnds'
import { RouteRow } from './RouteRow'
import { keyOf, namedOf, useWhomToChoose } from './usePeopleToChoose'
import {
  A_ROW,
  countSteps,
  MOST_STEPS,
  useTried,
  type RouteShown,
  type RouteWritten,
  type StageGiven,
  type Tried,
} from './useRouteSteps'

interface Props {
  /** Undefined for one that is not made yet. */
  route: RouteShown | undefined
  start: RouteWritten
  onCopy: (() => void) | undefined
  onMade: () => void
}

/**
 * What is written, with the version that was there when one began, over reloads too: what another saves meanwhile is
 * not written over unseen.
 */
function useWriting(route: RouteShown | undefined, start: RouteWritten) {
  const form = useKept('route', route?.id ?? `new ${start.name}`, route?.name ?? 'a new one')
  const version = route?.version ?? 0
  const [kept, setWritten] = useField(form, 'written', { ...start, seen: version })
  // What was typed before routes had ends has none.
  const written = { ...kept, ends: (kept as Partial<typeof kept>).ends ?? {} }
  const set = (part: Partial<typeof written>) => setWritten({ ...written, ...part })
  return { form, written, set, overtaken: written.seen !== version, onMine: () => set({ seen: version }) }
}

/** A slip that one writes on: a row a stage, and beside each step the day on which it would end if it began today. */
export function RouteEditor({ route, start, onCopy, onMade }: Props) {
  const { form, written, set, overtaken, onMine } = useWriting(route, start)
  const { name, purpose, stages } = written
  const tried = useTried(stages, written.ends)
  const whom = useWhomToChoose()
  const save = useSaving(route, form, written, onMade)
  return (
    <form
      aria-label={route ? `The route ${route.name}` : 'A new route'}
      className="max-w-[980px]"
      onSubmit={(event) => {
        event.preventDefault()
        save.mutate()
      }}
    >
      <Head form={form} name={name} purpose={purpose} onChange={set} />
      <Rows
        form={form}
        stages={stages}
        tried={tried.data}
        whom={whom.choices}
        onChange={(next) => set({ stages: next })}
      />
      <div className="mt-3 max-w-[560px]">
        <ChooseMany
          label="Who may start it; with nobody here, everybody who may file"
          choices={whom.choices}
          chosen={written.may_start.map(keyOf)}
          onChange={(next) => set({ may_start: next.map(namedOf) })}
        />
      </div>
      <RouteEnds
        keep={form}
        ends={written.ends}
        whom={whom.choices}
        tried={tried.data}
        onChange={(ends) => set({ ends })}
      />
      {overtaken && <Overtaken onTheirs={form.drop} onMine={onMine} />}
      <ErrorNote error={save.error ?? tried.error ?? whom.error} />
      <Foot
        route={route}
        onCopy={onCopy}
        busy={save.isPending}
        why={reasonNot(overtaken, stages, tried.data)}
      />
    </form>
  )
}

interface HeadProps extends Pick<RouteWritten, 'name' | 'purpose'> {
  form: Kept
  onChange: (part: Partial<RouteWritten>) => void
}

function Head({ form, name, purpose, onChange }: HeadProps) {
  return (
    <div className="mb-3 grid grid-cols-[1fr_1.6fr] gap-3 max-md:grid-cols-1">
      <TextField
        keep={form}
        label="Name of the route"
        required
        value={name}
        onChange={(event) => onChange({ name: event.target.value })}
      />
      <TextField
        keep={form}
        label="What it is for"
        value={purpose}
        onChange={(event) => onChange({ purpose: event.target.value })}
      />
    </div>
  )
}

/** Another has saved the route since one began to write on it. */
function Overtaken({ onTheirs, onMine }: { onTheirs: () => void; onMine: () => void }) {
  return (
    <div
      role="alert"
      className="mt-3 flex flex-wrap items-center gap-3 border-l-[3px] border-ochre bg-surface px-3 py-2"
    >
      <span>Somebody changed this route while you wrote. What you see is yours, and is not saved.</span>
      <Button small onClick={onTheirs}>
        Show theirs
      </Button>
      <Button small onClick={onMine}>
        Mine takes its place
      </Button>
    </div>
  )
}

interface FootProps extends Pick<Props, 'route' | 'onCopy'> {
  busy: boolean
  why: string | false
}

function Foot({ route, onCopy, busy, why }: FootProps) {
  return (
    <>
      <div className="mt-3 flex flex-wrap justify-end gap-3">
        {route && <Retiring route={route} />}
        {onCopy && <Button onClick={onCopy}>Copy it</Button>}
        <Button look="act" type="submit" busy={busy} why={why}>
          {route ? 'Save the route' : 'Make the route'}
        </Button>
      </div>
      {route && (
        <p className="mt-2 text-right text-note text-second">
          Reviews that run keep the path they were sent with.
        </p>
      )}
    </>
  )
}

function reasonNot(overtaken: boolean, stages: readonly StageGiven[], tried: Tried) {
  if (overtaken) return 'Somebody changed this route meanwhile.'
  if (countSteps(stages) === 0) return 'A route has one step at least.'
  if (tried?.end_trouble) return tried.end_trouble
  const troubles = tried?.stages.flatMap((stage) => stage.steps.map((step) => step.trouble)) ?? []
  const place = troubles.findIndex(Boolean)
  return place >= 0 && `Step ${place + 1}: ${troubles[place] ?? ''}`
}

interface RowsProps {
  form: Kept
  stages: StageGiven[]
  tried: Tried
  whom: ReturnType<typeof useWhomToChoose>['choices']
  onChange: (stages: StageGiven[]) => void
}

function Rows({ form, stages, tried, whom, onChange }: RowsProps) {
  const { list, added } = useNewLine<HTMLOListElement>()
  const full = countSteps(stages) >= MOST_STEPS && 'A route has ten steps at most.'
  return (
    <>
      <ol ref={list} className="border-2 border-second bg-surface empty:hidden">
        {stages.map((stage, place) => (
          <RouteRow
            key={place}
            keep={form}
            stage={stage}
            place={place}
            last={stages.length - 1}
            whom={whom}
            tried={tried?.stages[place]}
            full={full}
            onChange={(part) =>
              onChange(stages.map((each, at) => (at === place ? { ...each, ...part } : each)))
            }
            onMove={(by) => onChange(moved(stages, place, by))}
            onTake={() => onChange(stages.filter((_, at) => at !== place))}
          />
        ))}
      </ol>
      <Button
        small
        className="mt-2"
        why={full}
        onClick={() => {
          added()
          onChange([...stages, A_ROW])
        }}
      >
        Add a step
      </Button>
    </>
  )
}

function moved(stages: readonly StageGiven[], place: number, by: number): StageGiven[] {
  const next = [...stages]
  const [stage] = next.splice(place, 1)
  if (stage) next.splice(place + by, 0, stage)
  return next
}

function useSaving(
  route: RouteShown | undefined,
  form: Kept,
  { seen, ...written }: RouteWritten & { seen: number },
  onMade: () => void,
) {
  const { project } = useSeat()
  const client = useQueryClient()
  return useMutation<unknown>({
    mutationFn: () =>
      route
        ? unwrap(
            api.PUT('/api/routes/{route_id}', {
              params: { path: { route_id: route.id } },
              body: { ...written, version: seen },
            }),
          )
        : sendOnce(form, (more) =>
            unwrap(
              api.POST('/api/routes/written', {
                ...more,
                body: { ...written, version: 0, project_id: project.id },
              }),
            ),
          ),
    onSuccess: async () => {
      await fetchAnew(client, ['routes'])
      form.drop()
      onMade()
    },
  })
}

/** A retired route is started on by nobody, and can be brought back. */
function Retiring({ route }: { route: RouteShown }) {
  const client = useQueryClient()
  const [sure, setSure] = useState(false)
  const settle = { onSuccess: () => fetchAnew(client, ['routes']) }
  const params = { path: { route_id: route.id } }
  const body = { version: route.version }
  const retire = useMutation({
    mutationFn: () => unwrap(api.POST('/api/routes/{route_id}/retire', { params, body })),
    ...settle,
  })
  const back = useMutation({
    mutationFn: () => unwrap(api.POST('/api/routes/{route_id}/bring-back', { params, body })),
    ...settle,
  })
  if (route.retired)
    return (
      <>
        <ErrorNote error={back.error} />
        <Button busy={back.isPending} onClick={() => back.mutate()}>
          Bring it back
        </Button>
      </>
    )
  return (
    <>
      <ErrorNote error={retire.error} />
      <Button look="stop" busy={retire.isPending} onClick={() => (sure ? retire.mutate() : setSure(true))}>
        {sure ? 'Yes, nobody starts on it any more' : 'Retire it'}
      </Button>
    </>
  )
}
