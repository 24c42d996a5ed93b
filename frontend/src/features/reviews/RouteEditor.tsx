import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { sendOnce, useField, useKept, type Kept } from '../../ui/useKept'
import { ChooseMany, type Choosable } from '../../ui/ChooseMany'
import { RouteEnds } from './RouteEnds'
import { RouteRows } from './RouteRows'
import { keyOf, namedOf, useWhomToChoose } from '../../ui/usePeopleToChoose'
import {
  countSteps,
  useTried,
  type RouteShown,
  type RouteWritten,
  type StageGiven,
  type Tried,
} from './useRouteSteps'
import { useHere } from '../../ui/useHere'

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
  // What was typed before routes had these says nothing of them.
  const { ends = {}, may_change = false, shows = 'at_once' } = kept as Partial<typeof kept>
  const written = { ...kept, ends, may_change, shows }
  const set = (part: Partial<typeof written>) => setWritten({ ...written, ...part })
  return { form, written, set, overtaken: written.seen !== version, onMine: () => set({ seen: version }) }
}

/** A slip that one writes on: a row a stage, and beside each step the day on which it would end if it began today. */
export function RouteEditor({ route, start, onCopy, onMade }: Props) {
  const { form, written, set, overtaken, onMine } = useWriting(route, start)
  const { name, purpose, stages } = written
  const tried = useTried(stages, written.ends)
  const whom = useWhomToChoose()
  const asked = useWhomToChoose('answers by a link')
  const told = useWhomToChoose('told by mail')
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
      <RouteRows
        form={form}
        stages={stages}
        tried={tried.data}
        whom={asked.choices}
        onChange={(next) => set({ stages: next })}
      />
      <Rules written={written} whom={whom.choices} onChange={set} />
      <RouteEnds
        keep={form}
        ends={written.ends}
        sets={setsGiven(stages)}
        whom={told.choices}
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

interface RulesProps {
  written: RouteWritten
  whom: readonly Choosable[]
  onChange: (part: Partial<RouteWritten>) => void
}

/** Who may start it and change its people, and when others see what is said. */
function Rules({ written, whom, onChange }: RulesProps) {
  return (
    <div className="mt-3 flex max-w-[560px] flex-col gap-2">
      <ChooseMany
        label="Who may start it; with nobody here, everybody who may file"
        choices={whom}
        chosen={written.may_start.map(keyOf)}
        onChange={(next) => onChange({ may_start: next.map(namedOf) })}
      />
      <Checkbox
        label="whoever starts it may put other people in"
        checked={written.may_change}
        onChange={(may_change) => onChange({ may_change })}
      />
      <Checkbox
        label="what is said is kept among its people until a document leaves the review"
        checked={written.shows === 'end'}
        onChange={(end) => onChange({ shows: end ? 'end' : 'at_once' })}
      />
    </div>
  )
}

/** Whose verdicts it gives: with no step that decides yet, the usual ones. */
function setsGiven(stages: readonly StageGiven[]): string[] {
  const deciding = stages.flatMap((stage) => stage.steps.filter((step) => step.act === 'decide'))
  return deciding.length ? deciding.map((step) => step.verdicts ?? '') : ['']
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

function useSaving(
  route: RouteShown | undefined,
  form: Kept,
  { seen, ...written }: RouteWritten & { seen: number },
  onMade: () => void,
) {
  const { project } = useSeat()
  const client = useQueryClient()
  const here = useHere()
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
      here(onMade)
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
