import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { Command } from 'cmdk'
import { useKeys } from '../../ui/keys'
import { Dialog as Radix } from 'radix-ui'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { stationsFor } from './stations'

type Hit = Schemas['Hit']
type Thing = Schemas['Thing']

const KINDS = [
  ['documents', 'Documents'],
  ['sheets', 'On the sheets'],
  ['marks', 'In marks'],
] as const
const GROUP =
  '[&_[cmdk-group-heading]]:px-4 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-note [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-second'

const keyOf = (hit: Hit) => `${hit.kind} ${hit.document_id} ${hit.revision_id} ${hit.page} ${hit.mark_id}`

const keyOfThing = (thing: Thing) => `${thing.kind} ${thing.target}`

function HitLine({ hit }: { hit: Hit }) {
  return (
    <>
      <span className="flex items-baseline gap-2">
        <span className="code">{hit.number}</span>
        <span className="code text-second">{hit.revision}</span>
        <span className="min-w-0 flex-1 truncate">{hit.title}</span>
        <span className="text-note whitespace-nowrap text-second">{hit.where}</span>
      </span>
      {hit.words && <span className="block truncate text-note text-second">… {hit.words} …</span>}
    </>
  )
}

function More() {
  return <p className="px-4 pb-1 text-note text-second">and more; type on to narrow it</p>
}

/** Ctrl K: go to a station, a document, or the place on a sheet that says what is typed, without leaving the keyboard. */
export function Find({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [words, setWords] = useState('')
  const [picked, setPicked] = useState('')
  const found = useQuery({
    queryKey: ['find', project.id, words],
    queryFn: () =>
      unwrap(api.GET('/api/search', { params: { query: { project_id: project.id, words, limit: 8 } } })),
    enabled: open && words.trim() !== '',
    placeholderData: (previous) => previous,
  })

  useKeys({ 'Ctrl+k': ['find anything, from anywhere', () => onOpen(true)] }, 'anywhere', true)

  const stations = stationsFor(project).filter((each) =>
    each.words.toLowerCase().includes(words.toLowerCase()),
  )
  const asked = words.trim() !== ''
  const kinds = KINDS.map(([kind, head]) => ({
    head,
    hits: asked ? (found.data?.[kind] ?? []) : [],
    more: found.data?.more.includes(kind) ?? false,
  })).filter((each) => each.hits.length > 0)
  const others = asked ? (found.data?.others ?? []) : []
  // What is called so stands before what only says so.
  const named = kinds.filter((each) => each.head === 'Documents')
  const saying = kinds.filter((each) => each.head !== 'Documents')
  const keysOf = (some: typeof kinds) => some.flatMap((each) => each.hits.map(keyOf))
  const offered = [
    ...stations.map((each) => each.to as string),
    ...keysOf(named),
    ...others.flatMap((each) => each.things.map(keyOfThing)),
    ...keysOf(saying),
  ]
  // What was found arrives after the typing: the first of it is picked until another is.
  const pick = offered.includes(picked) ? picked : (offered[0] ?? '')

  function go(act: () => Promise<void>) {
    onOpen(false)
    setWords('')
    void act()
  }

  function openHit(hit: Hit) {
    const params = { revisionId: hit.revision_id }
    if (!hit.is_sheet) return navigate({ to: '/register', search: { document: hit.document_id } })
    const at = hit.box.length === 4 ? (hit.box as [number, number, number, number]) : undefined
    return navigate({
      to: '/sheet/$revisionId',
      params,
      search: { page: hit.page, at, mark: hit.mark_id || undefined },
    })
  }

  const row = 'flex cursor-pointer items-baseline gap-2 px-4 py-1.5 data-[selected=true]:bg-plum-tint'
  return (
    <Radix.Root open={open} onOpenChange={onOpen}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Radix.Content className="fixed top-20 left-1/2 z-50 w-[620px] max-w-[calc(100vw-32px)] -translate-x-1/2 border border-second bg-surface">
          <Radix.Title className="sr-only">Find</Radix.Title>
          <Radix.Description className="sr-only">
            Type a number, a title, words of a sheet or a mark, the name of anything, or a station
          </Radix.Description>
          <Command shouldFilter={false} label="Find" value={pick} onValueChange={setPicked}>
            <Command.Input
              value={words}
              onValueChange={setWords}
              placeholder="Numbers, names, text on sheets, marks, stations"
              className="h-11 w-full border-b border-line bg-surface px-4 text-read outline-none"
            />
            <Command.List className="max-h-[420px] overflow-auto py-1">
              <Command.Empty className="px-4 py-3 text-second">Nothing has these words.</Command.Empty>
              {stations.map((station) => (
                <Command.Item
                  key={station.to}
                  value={station.to}
                  className={row}
                  onSelect={() => go(() => navigate({ to: station.to }))}
                >
                  <span className="text-second">Go to</span> {station.words}
                </Command.Item>
              ))}
              {named.map((each) => (
                <HitGroup key={each.head} {...each} onOpen={(hit) => go(() => openHit(hit))} />
              ))}
              {others.map((each) => (
                <ThingGroup
                  key={each.kind}
                  of={each}
                  more={found.data?.more.includes(each.kind) ?? false}
                  onOpen={(thing) => go(() => navigate({ to: thing.address }))}
                />
              ))}
              {saying.map((each) => (
                <HitGroup key={each.head} {...each} onOpen={(hit) => go(() => openHit(hit))} />
              ))}
            </Command.List>
          </Command>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}

interface HitGroupProps {
  head: string
  hits: readonly Hit[]
  more: boolean
  onOpen: (hit: Hit) => void
}

function HitGroup({ head, hits, more, onOpen }: HitGroupProps) {
  return (
    <Command.Group heading={head} className={GROUP}>
      {hits.map((hit) => (
        <Command.Item
          key={keyOf(hit)}
          value={keyOf(hit)}
          className="cursor-pointer px-4 py-1.5 data-[selected=true]:bg-plum-tint"
          onSelect={() => onOpen(hit)}
        >
          <HitLine hit={hit} />
        </Command.Item>
      ))}
      {more && <More />}
    </Command.Group>
  )
}

interface ThingGroupProps {
  of: Schemas['FoundThings']
  more: boolean
  onOpen: (thing: Thing) => void
}

function ThingGroup({ of: { plural, things }, more, onOpen }: ThingGroupProps) {
  return (
    <Command.Group heading={`${plural.charAt(0).toUpperCase()}${plural.slice(1)}`} className={GROUP}>
      {things.map((thing) => (
        <Command.Item
          key={keyOfThing(thing)}
          value={keyOfThing(thing)}
          className="cursor-pointer truncate px-4 py-1.5 data-[selected=true]:bg-plum-tint"
          onSelect={() => onOpen(thing)}
        >
          {thing.words}
        </Command.Item>
      ))}
      {more && <More />}
    </Command.Group>
  )
}
