import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { Command } from 'cmdk'
import { Dialog as Radix } from 'radix-ui'
import { useEffect, useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { stationsFor } from './stations'

/** Ctrl K: go to a station or a sheet without leaving the keyboard. */
export function Find({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const [words, setWords] = useState('')
  const [picked, setPicked] = useState('')
  const found = useQuery({
    queryKey: ['find', project.id, words],
    queryFn: () =>
      unwrap(api.GET('/api/documents', { params: { query: { project_id: project.id, words, limit: 12 } } })),
    enabled: open,
    placeholderData: (previous) => previous,
  })

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key === 'k') {
        event.preventDefault()
        onOpen(true)
      }
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [onOpen])

  const stations = stationsFor(project).filter((each) =>
    each.words.toLowerCase().includes(words.toLowerCase()),
  )
  const lines = found.data?.lines ?? []
  const offered = [...stations.map((each) => each.to as string), ...lines.map((each) => each.id)]
  // What was found arrives after the typing: the first of it is picked until another is.
  const pick = offered.includes(picked) ? picked : (offered[0] ?? '')

  function go(act: () => Promise<void>) {
    onOpen(false)
    setWords('')
    void act()
  }

  const row = 'flex cursor-pointer items-baseline gap-2 px-4 py-1.5 data-[selected=true]:bg-plum-tint'
  return (
    <Radix.Root open={open} onOpenChange={onOpen}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Radix.Content className="fixed top-20 left-1/2 z-50 w-[620px] max-w-[calc(100vw-32px)] -translate-x-1/2 border border-second bg-surface">
          <Radix.Title className="sr-only">Find</Radix.Title>
          <Radix.Description className="sr-only">Type a number, a title or a station</Radix.Description>
          <Command shouldFilter={false} label="Find" value={pick} onValueChange={setPicked}>
            <Command.Input
              value={words}
              onValueChange={setWords}
              placeholder="A number, a title, a station"
              className="h-11 w-full border-b border-line bg-surface px-4 text-[15px] outline-none"
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
              {lines.map((line) => (
                <Command.Item
                  key={line.id}
                  value={line.id}
                  className={row}
                  onSelect={() =>
                    go(() => navigate({ to: '/sheet/$revisionId', params: { revisionId: line.revision_id } }))
                  }
                >
                  <span className="code">{line.number}</span>
                  <span className="code text-second">{line.revision}</span>
                  <span className="truncate">{line.title}</span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
