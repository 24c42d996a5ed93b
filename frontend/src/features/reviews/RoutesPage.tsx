import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { RouteEditor } from './RouteEditor'
import { countSteps, useAllRoutes, writtenOf, type RouteShown } from './useRouteSteps'

/** What is open on the right: a route, an empty slip, or a copy that is a route of its own once it is made. */
type Open = { route: RouteShown } | { from: RouteShown | undefined }

/** The paths that reviews take: made, copied, changed and retired by those who run the project. */
export function RoutesPage() {
  const { project } = useSeat()
  const routes = useAllRoutes()
  const [open, setOpen] = useState<Open | null>(null)
  const all = routes.data ?? []
  const chosen = open && 'route' in open ? all.find((each) => each.id === open.route.id) : undefined
  if (!project.runs) return <Empty>Routes are written by leads and document controllers.</Empty>
  return (
    <div className="flex h-full max-md:flex-col max-md:overflow-auto">
      <section
        aria-label="Routes"
        className="flex w-[320px] shrink-0 flex-col border-r border-line max-md:w-full max-md:border-r-0"
      >
        <header className="flex items-center justify-between gap-2 border-b border-line px-4 py-2">
          <h1 className="text-head font-semibold">Routes</h1>
          <span className="flex items-center gap-3">
            <Link to="/reviews" className="inline-flex min-h-6 items-center text-list text-plum underline">
              Reviews
            </Link>
            <Button look="act" onClick={() => setOpen({ from: undefined })}>
              A new route
            </Button>
          </span>
        </header>
        <ErrorNote error={routes.error} again={() => void routes.refetch()} />
        {routes.isPending && <Loading what="the routes" />}
        <RouteList routes={all} chosen={chosen} onChoose={(route) => setOpen({ route })} />
      </section>
      <section aria-label="The slip" className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <OnTheRight open={open} chosen={chosen} onOpen={setOpen} />
      </section>
    </div>
  )
}

interface ListProps {
  routes: readonly RouteShown[]
  chosen: RouteShown | undefined
  onChoose: (route: RouteShown) => void
}

function RouteList({ routes, chosen, onChoose }: ListProps) {
  return (
    <ul className="min-h-0 overflow-auto">
      {routes.map((route) => (
        <li key={route.id}>
          <button
            type="button"
            aria-pressed={route === chosen}
            className={`w-full border-b border-line/60 px-4 py-2 text-left ${route === chosen ? 'bg-plum-tint' : 'hover:bg-surface'}`}
            onClick={() => onChoose(route)}
          >
            <span className="flex justify-between gap-2">
              <span className="font-semibold">{route.name}</span>
              {route.retired && <span className="text-note text-second">retired</span>}
            </span>
            <span className="block text-note text-second">
              {counted(countSteps(route.stages), 'step')}
              {route.purpose && `. ${route.purpose}`}
            </span>
          </button>
        </li>
      ))}
    </ul>
  )
}

interface RightProps {
  open: Open | null
  chosen: RouteShown | undefined
  onOpen: (open: Open | null) => void
}

function OnTheRight({ open, chosen, onOpen }: RightProps) {
  if (chosen)
    return (
      <RouteEditor
        key={chosen.id}
        route={chosen}
        start={writtenOf(chosen)}
        onCopy={() => onOpen({ from: chosen })}
        onMade={() => undefined}
      />
    )
  if (open && 'from' in open)
    return (
      <RouteEditor
        key={`new/${open.from?.id ?? ''}`}
        route={undefined}
        start={{ ...writtenOf(open.from), name: open.from ? `${open.from.name}, another` : '' }}
        onCopy={undefined}
        onMade={() => onOpen(null)}
      />
    )
  return (
    <Empty title="Choose a route, or write a new one">
      A route is the path that a review takes: who looks at the documents, in which order, and how long each
      has. Reviews that run keep the path they were sent with.
    </Empty>
  )
}
