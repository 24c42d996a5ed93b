import { createBrowserHistory, createRoute, createRouter } from '@tanstack/react-router'

import { addressIn, pathIn, projectIn } from './domain/projectPath'
import { page } from './ui/page'
import { readAsked } from './features/compare/asked'
import { readSearch } from './features/register/registerSearch'
import { readLog } from './features/reviews/logSearch'
import { readSessions } from './features/sessions/sessionSearch'
import { readLetters, type LetterSearch } from './features/letters/letterSearch'
import { readSubmittals } from './features/submittals/submittalSearch'
import { readHolders, readLog as readSent } from './features/transmittals/logSearch'
import type { AuditSearch } from './features/trail/AuditPage'
import { MAIL_TABS, type MailSearch } from './features/mail/mailSearch'
import { DeskPage } from './features/desk/DeskPage'
import { Frame } from './features/frame/Frame'
import { OUTSIDE, root, text } from './routesOutside'
import { boxOf, type MonthSearch, type SheetSearch, type SpecificationSearch } from './searches'

const intakePage = page(() => import('./features/intake/IntakePage'), 'IntakePage')
const submittalsPage = page(() => import('./features/submittals/SubmittalsPage'), 'SubmittalsPage')
const lettersPage = page(() => import('./features/letters/LettersPage'), 'LettersPage')
const sessionsPage = page(() => import('./features/sessions/SessionsPage'), 'SessionsPage')
const reviewsPage = page(() => import('./features/reviews/ReviewsPage'), 'ReviewsPage')
const transmittalsPage = page(() => import('./features/transmittals/TransmittalsPage'), 'TransmittalsPage')
// Each page is fetched when it is first gone to, or when there is time before.
const setupPage = page(() => import('./features/setup/SetupPage'), 'SetupPage')

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
  component: intakePage,
  validateSearch: inIntake,
})
const batch = createRoute({
  getParentRoute: () => frame,
  path: '/intake/$batchId',
  component: intakePage,
  validateSearch: inIntake,
})
const reader = createRoute({
  getParentRoute: () => frame,
  path: '/intake/$batchId/reader',
  component: page(() => import('./features/intake/reader/ReaderPage'), 'ReaderPage'),
  validateSearch: (search): { arrival?: string | undefined } => ({ arrival: text(search['arrival']) }),
})
const register = createRoute({
  getParentRoute: () => frame,
  path: '/register',
  component: page(() => import('./features/register/RegisterPage'), 'RegisterPage'),
  validateSearch: readSearch,
})
const sets = createRoute({
  getParentRoute: () => frame,
  path: '/register/sets',
  component: page(() => import('./features/register/sets/SetsPage'), 'SetsPage'),
  validateSearch: (search): { set?: string | undefined } => ({ set: text(search['set']) }),
})
const out = createRoute({
  getParentRoute: () => frame,
  path: '/register/out',
  component: page(() => import('./features/register/OutPage'), 'OutPage'),
})
const planned = createRoute({
  getParentRoute: () => frame,
  path: '/register/planned',
  component: page(() => import('./features/register/planned/PlannedPage'), 'PlannedPage'),
})
const givenLinks = createRoute({
  getParentRoute: () => frame,
  path: '/register/links',
  component: page(() => import('./features/register/links/LinksPage'), 'LinksPage'),
})
const attached = createRoute({
  getParentRoute: () => frame,
  path: '/register/attached',
  component: page(() => import('./features/register/attached/AttachedPage'), 'AttachedPage'),
  validateSearch: (search): { folders?: string | undefined } => ({ folders: text(search['folders']) }),
})
const sheet = createRoute({
  getParentRoute: () => frame,
  path: '/sheet/$revisionId',
  component: page(() => import('./features/sheet/SheetPage'), 'SheetPage'),
  validateSearch: (search): SheetSearch => ({
    page: typeof search['page'] === 'number' ? search['page'] : undefined,
    at: boxOf(search['at']),
    mark: text(search['mark']),
    session: text(search['session']),
  }),
})
const markPlace = createRoute({
  getParentRoute: () => frame,
  path: '/marks/$threadId',
  component: page(() => import('./features/sheet/MarkPage'), 'MarkPage'),
})
const compare = createRoute({
  getParentRoute: () => frame,
  path: '/compare/$before/$after',
  component: page(() => import('./features/compare/ComparePage'), 'ComparePage'),
  validateSearch: readAsked,
})
const ofDossier = (search: Record<string, unknown>): { tab?: string | undefined } => ({
  tab: text(search['tab']),
})
const sessions = createRoute({
  getParentRoute: () => frame,
  path: '/sessions',
  component: sessionsPage,
  validateSearch: readSessions,
})
const session = createRoute({
  getParentRoute: () => frame,
  path: '/sessions/$sessionId',
  component: sessionsPage,
  validateSearch: (search) => ({ ...ofDossier(search), ...readSessions(search) }),
})
const submittals = createRoute({
  getParentRoute: () => frame,
  path: '/submittals',
  component: submittalsPage,
  validateSearch: readSubmittals,
})
const submittal = createRoute({
  getParentRoute: () => frame,
  path: '/submittals/$submittalId',
  component: submittalsPage,
  validateSearch: (search) => ({ ...ofDossier(search), ...readSubmittals(search) }),
})
const specification = createRoute({
  getParentRoute: () => frame,
  path: '/submittals/specification',
  component: page(() => import('./features/submittals/SpecificationPage'), 'SpecificationPage'),
  validateSearch: (search): SpecificationSearch => ({
    spec: text(search['spec']),
    named: text(search['named']),
  }),
})
const submittalsAnalysis = createRoute({
  getParentRoute: () => frame,
  path: '/submittals/analysis',
  component: page(() => import('./features/submittals/AnalysisPage'), 'AnalysisPage'),
})
const submittalsMonth = createRoute({
  getParentRoute: () => frame,
  path: '/submittals/month',
  component: page(() => import('./features/submittals/MonthPage'), 'MonthPage'),
  validateSearch: (search): MonthSearch => ({
    month: text(search['month']),
    view: text(search['view']),
    company: text(search['company']),
  }),
})
const letters = createRoute({
  getParentRoute: () => frame,
  path: '/letters',
  component: lettersPage,
  validateSearch: readLetters,
})
const letter = createRoute({
  getParentRoute: () => frame,
  path: '/letters/$letterId',
  component: lettersPage,
  validateSearch: (search): LetterSearch & { tab?: string | undefined; message?: string | undefined } => ({
    ...ofDossier(search),
    ...readLetters(search),
    message: text(search['message']),
  }),
})
const writing = createRoute({
  getParentRoute: () => frame,
  path: '/letters/write/$messageId',
  component: page(() => import('./features/letters/WritePage'), 'WritePage'),
})
const newSession = createRoute({
  getParentRoute: () => frame,
  path: '/sessions/new',
  component: page(() => import('./features/sessions/MakeSessionPage'), 'MakeSessionPage'),
  validateSearch: (
    search,
  ): { revisions?: string | undefined; set?: string | undefined; review?: string | undefined } => ({
    revisions: text(search['revisions']),
    set: text(search['set']),
    review: text(search['review']),
  }),
})
const reviews = createRoute({
  getParentRoute: () => frame,
  path: '/reviews',
  component: reviewsPage,
  validateSearch: readLog,
})
const late = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/late',
  component: page(() => import('./features/reviews/LatePage'), 'LatePage'),
})
const review = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/$reviewId',
  component: reviewsPage,
  validateSearch: (search) => ({ ...ofDossier(search), ...readLog(search) }),
})
const goOn = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/$reviewId/go-on',
  component: page(() => import('./features/reviews/GoOn'), 'GoOn'),
})
const routes = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/routes',
  component: page(() => import('./features/reviews/RoutesPage'), 'RoutesPage'),
})
const newReview = createRoute({
  getParentRoute: () => frame,
  path: '/reviews/new',
  component: page(() => import('./features/reviews/StartReviewPage'), 'StartReviewPage'),
  validateSearch: (search) => ({ documents: text(search['documents']) ?? '' }),
})
const transmittals = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals',
  component: transmittalsPage,
  validateSearch: readSent,
})
const transmittal = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/$transmittalId',
  component: transmittalsPage,
  validateSearch: (search) => ({ ...ofDossier(search), ...readSent(search) }),
})
const newTransmittal = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/new',
  component: page(() => import('./features/transmittals/SendPage'), 'SendPage'),
  validateSearch: (
    search,
  ): {
    review?: string | undefined
    revisions?: string | undefined
    set?: string | undefined
    draft?: string | undefined
    record?: string | undefined
  } => ({
    draft: text(search['draft']),
    record: text(search['record']),
    review: text(search['review']),
    revisions: text(search['revisions']),
    set: text(search['set']),
  }),
})
const holders = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/holders',
  component: page(() => import('./features/transmittals/HoldersPage'), 'HoldersPage'),
  validateSearch: readHolders,
})
const received = createRoute({
  getParentRoute: () => frame,
  path: '/transmittals/received',
  component: page(() => import('./features/transmittals/ReceivedPage'), 'ReceivedPage'),
})
const audit = createRoute({
  getParentRoute: () => frame,
  path: '/audit',
  component: page(() => import('./features/trail/AuditPage'), 'AuditPage'),
  validateSearch: (search): AuditSearch => ({
    person: text(search['person']),
    company: text(search['company']),
    object: text(search['object']),
    kind: text(search['kind']),
    from: text(search['from']),
    until: text(search['until']),
  }),
})
const setup = createRoute({ getParentRoute: () => frame, path: '/setup', component: setupPage })
const setupSection = createRoute({
  getParentRoute: () => frame,
  path: '/setup/$section',
  component: setupPage,
})
const account = createRoute({
  getParentRoute: () => frame,
  path: '/account',
  component: page(() => import('./features/people/AccountPage'), 'AccountPage'),
})
const workspace = createRoute({
  getParentRoute: () => frame,
  path: '/workspace',
  component: page(() => import('./features/setup/workspace/WorkspacePage'), 'WorkspacePage'),
})
const mail = createRoute({
  getParentRoute: () => frame,
  path: '/mail',
  component: page(() => import('./features/mail/MailPage'), 'MailPage'),
  validateSearch: (search): MailSearch => ({
    tab: MAIL_TABS.find((each) => each === search['tab']),
    mail: text(search['mail']),
  }),
})
const postRoom = createRoute({
  getParentRoute: () => frame,
  path: '/post-room',
  component: page(() => import('./features/mail/PostRoomPage'), 'PostRoomPage'),
})

const tree = root.addChildren([
  ...OUTSIDE,
  frame.addChildren([
    desk,
    intake,
    batch,
    reader,
    register,
    sets,
    out,
    planned,
    attached,
    givenLinks,
    sheet,
    markPlace,
    compare,
    sessions,
    session,
    submittals,
    submittal,
    specification,
    submittalsAnalysis,
    submittalsMonth,
    letters,
    letter,
    writing,
    newSession,
    reviews,
    late,
    review,
    goOn,
    newReview,
    routes,
    transmittals,
    transmittal,
    newTransmittal,
    holders,
    received,
    audit,
    setup,
    setupSection,
    account,
    workspace,
    mail,
    postRoom,
  ]),
])

// Its own, as the window's address is a moment behind when links are drawn.
const history = createBrowserHistory()

export const router = createRouter({
  routeTree: tree,
  history,
  defaultPreload: false,
  // The routes do not know of the project that they are in; every link stays in it.
  rewrite: {
    input: ({ url }) => {
      url.pathname = pathIn(url.pathname)
      return url
    },
    output: ({ url }) => {
      url.pathname = addressIn(projectIn(history.location.pathname), url.pathname)
      return url
    },
  },
})

/** Fetches the pages that have not been gone to, so that they are there even when the line breaks. */
export async function fetchPages() {
  for (const route of Object.values(router.routesById)) {
    const { component } = route.options
    if (component && 'preload' in component) await component.preload?.()
  }
}

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router
  }
}
