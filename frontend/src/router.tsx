import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
} from '@tanstack/react-router'

import { readAsked } from './features/compare/asked'
import { readSearch } from './features/register/registerSearch'
import type { AuditSearch } from './features/audit/AuditPage'
import { AuditPage } from './features/audit/AuditPage'
import { DeskPage } from './features/desk/DeskPage'
import { Frame } from './features/frame/Frame'
import { CodePage } from './features/guest/CodePage'
import { GuestPage } from './features/guest/GuestPage'
import { IntakePage } from './features/intake/IntakePage'
import { PostRoomPage } from './features/postroom/PostRoomPage'
import { OutPage } from './features/register/OutPage'
import { PlannedPage } from './features/register/PlannedPage'
import { RegisterPage } from './features/register/RegisterPage'
import { SetsPage } from './features/register/SetsPage'
import { ReviewsPage } from './features/reviews/ReviewsPage'
import { StartReviewPage } from './features/reviews/StartReviewPage'
import { AccountPage } from './features/account/AccountPage'
import { SetupPage } from './features/setup/SetupPage'
import { ForgottenPage } from './features/signin/ForgottenPage'
import { KeyLinkPage } from './features/signin/KeyLinkPage'
import { SignInPage } from './features/signin/SignInPage'
import { SendPage } from './features/transmittals/SendPage'
import { TransmittalsPage } from './features/transmittals/TransmittalsPage'
import { WorkspacePage } from './features/workspace/WorkspacePage'

const text = (value: unknown): string | undefined =>
  typeof value === 'string' && value !== '' ? value : undefined

/** Where on a sheet to look: a page from 0, a box of it in PDF points, a mark. */
interface SheetSearch {
  page?: number | undefined
  at?: [number, number, number, number] | undefined
  mark?: string | undefined
}

const boxOf = (value: unknown): [number, number, number, number] | undefined =>
  Array.isArray(value) && value.length === 4 && value.every((each) => typeof each === 'number')
    ? (value as [number, number, number, number])
    : undefined

const root = createRootRoute({
  component: Outlet,
  notFoundComponent: () => (
    <main className="p-10">
      <h1 className="text-[20px] font-semibold">There is nothing here</h1>
      <a href="/" className="text-plum underline">
        To your desk
      </a>
    </main>
  ),
})
const signIn = createRoute({
  getParentRoute: () => root,
  path: '/sign-in',
  component: SignInPage,
  validateSearch: (search) => ({ next: text(search['next']) ?? '/' }),
})
const guest = createRoute({ getParentRoute: () => root, path: '/t/$token', component: GuestPage })
const printCode = createRoute({ getParentRoute: () => root, path: '/c/$code', component: CodePage })
const forgotten = createRoute({ getParentRoute: () => root, path: '/forgotten', component: ForgottenPage })
const keyLink = createRoute({ getParentRoute: () => root, path: '/k/$token', component: KeyLinkPage })
const frame = createRoute({ getParentRoute: () => root, id: 'frame', component: Frame })
const desk = createRoute({ getParentRoute: () => frame, path: '/', component: DeskPage })
const inIntake = (
  search: Record<string, unknown>,
): { file?: string | undefined; held?: true | undefined } => ({
  file: text(search['file']),
  held: search['held'] === true || undefined,
})
const intake = createRoute({
  getParentRoute: () => frame,
  path: '/intake',
  component: IntakePage,
  validateSearch: inIntake,
})
const batch = createRoute({
  getParentRoute: () => frame,
  path: '/intake/$batchId',
  component: IntakePage,
  validateSearch: inIntake,
})
const reader = createRoute({
  getParentRoute: () => frame,
  path: '/intake/$batchId/reader',
  // It brings the viewer along.
  component: lazyRouteComponent(() => import('./features/intake/ReaderPage'), 'ReaderPage'),
  validateSearch: (search): { arrival?: string | undefined } => ({ arrival: text(search['arrival']) }),
})
const register = createRoute({
  getParentRoute: () => frame,
  path: '/register',
  component: RegisterPage,
  validateSearch: readSearch,
})
const sets = createRoute({
  getParentRoute: () => frame,
  path: '/register/sets',
  component: SetsPage,
  validateSearch: (search): { set?: string | undefined } => ({ set: text(search['set']) }),
})
const out = createRoute({ getParentRoute: () => frame, path: '/register/out', component: OutPage })
const planned = createRoute({
  getParentRoute: () => frame,
  path: '/register/planned',
  component: PlannedPage,
})
const sheet = createRoute({
  getParentRoute: () => frame,
  path: '/sheet/$revisionId',
  // The viewer is large: it is fetched when the first sheet is opened.
  component: lazyRouteComponent(() => import('./features/sheet/SheetPage'), 'SheetPage'),
  validateSearch: (search): SheetSearch => ({
    page: typeof search['page'] === 'number' ? search['page'] : undefined,
    at: boxOf(search['at']),
    mark: text(search['mark']),
  }),
})
const compare = createRoute({
  getParentRoute: () => frame,
  path: '/compare/$before/$after',
  component: lazyRouteComponent(() => import('./features/compare/ComparePage'), 'ComparePage'),
  validateSearch: readAsked,
})
const reviews = createRoute({ getParentRoute: () => frame, path: '/reviews', component: ReviewsPage })
const review = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/$reviewId',
  component: ReviewsPage,
})
const newReview = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/new',
  component: StartReviewPage,
  validateSearch: (search) => ({ documents: text(search['documents']) ?? '' }),
})
const transmittals = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals',
  component: TransmittalsPage,
})
const transmittal = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/$transmittalId',
  component: TransmittalsPage,
})
const newTransmittal = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/new',
  component: SendPage,
  validateSearch: (search): { review?: string | undefined; revisions?: string | undefined } => ({
    review: text(search['review']),
    revisions: text(search['revisions']),
  }),
})
const audit = createRoute({
  getParentRoute: () => frame,
  path: '/audit',
  component: AuditPage,
  validateSearch: (search): AuditSearch => ({
    person: text(search['person']),
    company: text(search['company']),
    object: text(search['object']),
    kind: text(search['kind']),
    from: text(search['from']),
    until: text(search['until']),
  }),
})
const setup = createRoute({ getParentRoute: () => frame, path: '/setup', component: SetupPage })
const setupSection = createRoute({
  getParentRoute: () => frame,
  path: '/setup/$section',
  component: SetupPage,
})
const account = createRoute({ getParentRoute: () => frame, path: '/account', component: AccountPage })
const workspace = createRoute({ getParentRoute: () => frame, path: '/workspace', component: WorkspacePage })
const postRoom = createRoute({ getParentRoute: () => frame, path: '/post-room', component: PostRoomPage })

const tree = root.addChildren([
  signIn,
  guest,
  printCode,
  forgotten,
  keyLink,
  frame.addChildren([
    desk,
    intake,
    batch,
    reader,
    register,
    sets,
    out,
    planned,
    sheet,
    compare,
    reviews,
    review,
    newReview,
    transmittals,
    transmittal,
    newTransmittal,
    audit,
    setup,
    setupSection,
    account,
    workspace,
    postRoom,
  ]),
])

export const router = createRouter({ routeTree: tree, defaultPreload: false })

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router
  }
}
