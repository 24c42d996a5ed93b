import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, Navigate, Outlet, useRouter, useRouterState } from '@tanstack/react-router'
import { Eye, Mail, Radio, Search, Unplug } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useLive, type LiveState } from '../../api/live'
import { onRefused } from '../../api/problems'
import { SeatContext, useMeQuery, type Me, type Project } from '../../api/me'
import { addressIn, projectIn, thingIn } from '../../domain/projectPath'
import { Button } from '../../ui/Button'
import { Logo } from '../../ui/Logo'
import { ErrorNote, Loading } from '../../ui/Notes'
import { VerdictContext } from '../../ui/Stamp'
import { Bell } from './Bell'
import { NoSuchProject, NotIn } from './NotIn'
import { Find } from './Find'
import { KeysHelp } from './KeysHelp'
import { MeMenu } from './MeMenu'
import { ProjectName } from './ProjectName'
import { useNarrow } from '../../ui/useNarrow'
import { StationMenu, Stations } from './Stations'
import { stationsFor } from './stations'
import { SessionOver, useSessionOver } from './SessionOver'
import { LeftNote, Unsent } from './Unsent'
import { Waits } from './Waits'

/** The line on top, and below it the station. Without a sign-in it leads to the sign-in page. */
export function Frame() {
  const me = useMeQuery()
  const here = useRouterState({ select: (state) => state.location.publicHref })
  // Kept: while the sign-in page is on its way, `here` is its address already.
  const [address] = useState(here)
  if (me.isPending) return <Loading what="who you are" />
  // A page that is there stays: a broken line or an ended session is told on it.
  if (me.error && !me.data) {
    const signedOut = 'problem' in me.error && (me.error.problem as { status: number }).status === 401
    if (signedOut) return <Navigate to="/sign-in" search={{ next: address }} />
    return <ErrorNote error={me.error} again={() => void me.refetch()} />
  }
  return <Placed me={me.data} here={here} />
}

const KEPT = 'nod.project'

/** In the project that the address names. Without one there are only the account and, for stewards, the workspace. */
function Placed({ me, here }: { me: Me; here: string }) {
  const client = useQueryClient()
  const { history } = useRouter()
  const number = projectIn(here)
  const project = me.projects.find((each) => each.number === number)
  useEffect(() => {
    if (project) localStorage.setItem(KEPT, project.id)
  }, [project])

  function choose(id: string) {
    const chosen = me.projects.find((each) => each.id === id)
    client.removeQueries({ predicate: (query) => query.queryKey[0] !== 'me' })
    if (chosen) history.push(addressIn(chosen.number, '/'))
  }

  if (!me.projects.length) return <Projectless me={me} number={number} />
  if (number === null) return <IntoProject me={me} here={here} />
  if (!project) return <NotIn me={me} number={number} />
  return <Seated key={project.id} me={me} project={project} onProject={choose} />
}

/** An address that names no project leads into that of the thing it shows, or into the one looked at last. */
function IntoProject({ me, here }: { me: Me; here: string }) {
  const { history } = useRouter()
  const thing = thingIn(here)
  const found = useQuery({
    queryKey: ['whereabouts', thing],
    queryFn: () =>
      unwrap(api.GET('/api/whereabouts/{thing_id}', { params: { path: { thing_id: thing ?? '' } } })),
    enabled: thing !== null,
    retry: false,
  })
  const known = thing === null || !found.isPending
  const id = found.data?.project_id ?? localStorage.getItem(KEPT)
  const project = me.projects.find((each) => each.id === id) ?? me.projects[0]
  useEffect(() => {
    if (known && project) history.replace(addressIn(project.number, here))
  }, [history, known, project, here])
  return <Loading what="the project" />
}

function Projectless({ me, number }: { me: Me; number: string | null }) {
  const path = useRouterState({ select: (state) => state.location.pathname })
  const elsewhere = path === '/account' || path === '/workspace'
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-12 shrink-0 items-center justify-between border-b border-line bg-surface px-4">
        <Logo className="size-6" />
        <MeMenu me={me} />
      </header>
      <main className="min-h-0 flex-1">
        {elsewhere ? (
          <Outlet />
        ) : number !== null ? (
          <NoSuchProject me={me} number={number} />
        ) : (
          <p className="p-8 text-read">
            You are not in a project yet.{' '}
            {me.steward ? (
              <Link to="/workspace" className="text-plum underline">
                Begin one in the workspace
              </Link>
            ) : (
              'A project lead can add you.'
            )}
          </p>
        )}
      </main>
    </div>
  )
}

interface SeatedProps {
  me: Me
  project: Project
  onProject: (id: string) => void
}

function Seated({ me, project, onProject }: SeatedProps) {
  const client = useQueryClient()
  const live = useLive(client, me.live_port, me.live_url)
  const [finding, setFinding] = useState(false)
  const [over, setOver] = useSessionOver()
  useWhoever(me)
  useWhereabouts(live)
  return (
    <SeatContext.Provider value={{ me, project }}>
      <VerdictContext.Provider value={project.verdict_set}>
        <div className="flex h-full flex-col">
          <a
            href="#station"
            className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-surface focus:p-2"
          >
            Skip to the station
          </a>
          {me.looker && <SeenAs me={me} />}
          <Line me={me} project={project} onProject={onProject} live={live} onFind={() => setFinding(true)} />
          <main id="station" className="relative min-h-0 flex-1">
            <Outlet />
          </main>
        </div>
        <Find open={finding} onOpen={setFinding} />
        <KeysHelp />
        <LeftNote />
        {over && <SessionOver onClose={() => setOver(false)} />}
      </VerdictContext.Provider>
    </SeatContext.Provider>
  )
}

const ASKED_AGAIN_MS = 5000

/** Whether I am still in the project: asked again when the line has broken, or something is not there for me any more. */
function useWhereabouts(live: LiveState) {
  const client = useQueryClient()
  const asked = useRef(0)
  const away = live === 'away'
  useEffect(() => {
    const ask = () => {
      if (Date.now() - asked.current < ASKED_AGAIN_MS) return
      asked.current = Date.now()
      void client.invalidateQueries({ queryKey: ['me'] })
    }
    if (away) ask()
    const told = (event: StorageEvent) => event.key === SIGNED_IN && ask()
    window.addEventListener('storage', told)
    const deaf = onRefused(({ problem }) => GONE.has(problem.status) && ask())
    return () => {
      window.removeEventListener('storage', told)
      deaf()
    }
  }, [client, away])
}

const GONE = new Set([403, 404])
const SIGNED_IN = 'nod.signed-in'

/** Somebody else has signed in with this browser, on another page of it: nothing of the first stays here. */
function useWhoever(me: Me) {
  const [first] = useState(me.person.id)
  useEffect(() => {
    if (me.person.id !== first && !me.looker) location.assign('/')
    // For other pages of this browser, which are then told.
    else if (!me.looker) localStorage.setItem(SIGNED_IN, me.person.id)
  }, [me, first])
}

/** Says plainly through whose eyes this is, and leads back. */
function SeenAs({ me }: { me: Me }) {
  const client = useQueryClient()
  async function end() {
    await unwrap(api.POST('/api/see-as/end'))
    await client.resetQueries()
  }
  return (
    <div
      role="status"
      className="flex shrink-0 items-center gap-3 border-b-2 border-ochre bg-ochre-tint px-4 py-1 text-ochre"
    >
      <Eye size={16} aria-hidden />
      <span>
        You see this project as <strong>{me.person.name}</strong> does. Nothing can be changed. It is in the
        trail that you, {me.looker}, looked.
      </span>
      <Button small className="ml-auto" onClick={() => void end()}>
        Back to my own eyes
      </Button>
    </div>
  )
}

interface LineProps extends SeatedProps {
  live: LiveState
  onFind: () => void
}

function Line({ me, project, onProject, live, onFind }: LineProps) {
  const desk = useQuery({
    queryKey: ['desk', project.id],
    queryFn: () => unwrap(api.GET('/api/desk', { params: { query: { project_id: project.id } } })),
  })
  const stations = stationsFor(project)
  const narrow = useNarrow()
  const counts = desk.data?.counts ?? {}
  return (
    <header className="flex h-12 shrink-0 items-stretch gap-3 border-b border-line bg-surface px-3 xl:gap-4 xl:px-4">
      <div className="flex shrink-0 items-center gap-2.5">
        <Logo className="size-6" />
        <ProjectName me={me} project={project} onProject={onProject} />
      </div>
      {narrow ? (
        <StationMenu stations={stations} counts={counts} />
      ) : (
        <Stations stations={stations} counts={counts} />
      )}
      <div className="ml-auto flex shrink-0 items-center gap-3 max-sm:gap-1">
        <Waits />
        <LiveSign state={live} />
        <Unsent />
        <Bell />
        {me.demo && <PostRoomLink />}
        <button
          type="button"
          onClick={onFind}
          className="flex min-h-6 min-w-6 items-center justify-center gap-1.5 text-second hover:text-ink max-sm:min-h-11 max-sm:min-w-9"
        >
          <Search size={16} aria-hidden /> <span className="max-sm:sr-only">Find</span>{' '}
          <kbd className="code hidden border border-line px-1 text-fine xl:inline">Ctrl K</kbd>
        </button>
        <MeMenu me={me} />
      </div>
    </header>
  )
}

function PostRoomLink() {
  return (
    <Link
      to="/post-room"
      className="flex min-h-6 min-w-6 items-center justify-center gap-1 text-second hover:text-ink max-sm:min-h-11 max-sm:min-w-9"
      title="The demo's mail"
    >
      <Mail size={16} aria-hidden />
      <span className="hidden xl:inline">Post room</span>
      <span className="sr-only xl:hidden">Post room</span>
    </Link>
  )
}

const SIGNS = {
  live: { words: 'Live', help: 'Changes by others appear by themselves.', look: 'text-spruce', Icon: Radio },
  crowded: {
    words: 'Not live',
    help: 'Nod is open in too many windows here, so this one does not hear of changes by itself. Close some of them.',
    look: 'text-ochre',
    Icon: Unplug,
  },
  joining: { words: 'Joining', help: 'Joining the live channel.', look: 'text-second', Icon: Radio },
  away: {
    words: 'Away',
    help: 'The line is broken. Nod tries again and catches up.',
    look: 'text-brick',
    Icon: Unplug,
  },
}

function LiveSign({ state }: { state: LiveState }) {
  const { words, help, look, Icon } = SIGNS[state]
  return (
    <span role="status" title={help} className={`flex items-center gap-1 text-note ${look}`}>
      <Icon size={14} aria-hidden /> <span className="max-sm:sr-only">{words}</span>
    </span>
  )
}
