import { createRootRoute, createRoute, Outlet } from '@tanstack/react-router'

import { SignInPage } from './features/people/SignInPage'
import { page } from './ui/page'

/** A text of an address; nothing for an empty one, or for what is no text. */
export const text = (value: unknown): string | undefined =>
  typeof value === 'string' && value !== '' ? value : undefined

/** What all pages stand under. */
export const root = createRootRoute({
  component: Outlet,
  notFoundComponent: () => (
    <main className="p-10">
      <h1 className="text-title font-semibold">There is nothing here</h1>
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
const linkPage = page(() => import('./features/links/LinkPage'), 'LinkPage')
const guest = createRoute({ getParentRoute: () => root, path: '/t/$token', component: linkPage })
const link = createRoute({ getParentRoute: () => root, path: '/l/$token', component: linkPage })
const printCode = createRoute({
  getParentRoute: () => root,
  path: '/c/$code',
  component: page(() => import('./features/sheet/CodePage'), 'CodePage'),
})
const coverCode = createRoute({
  getParentRoute: () => root,
  path: '/cover/$code',
  component: page(() => import('./features/links/CoverPage'), 'CoverPage'),
})
const checkProof = createRoute({
  getParentRoute: () => root,
  path: '/check',
  component: page(() => import('./features/trail/CheckPage'), 'CheckPage'),
})
const forgotten = createRoute({
  getParentRoute: () => root,
  path: '/forgotten',
  component: page(() => import('./features/people/ForgottenPage'), 'ForgottenPage'),
})
const keyLink = createRoute({
  getParentRoute: () => root,
  path: '/k/$token',
  component: page(() => import('./features/people/KeyLinkPage'), 'KeyLinkPage'),
})

/** The pages that are there before one has signed in. */
export const OUTSIDE = [signIn, guest, link, printCode, coverCode, checkProof, forgotten, keyLink] as const
