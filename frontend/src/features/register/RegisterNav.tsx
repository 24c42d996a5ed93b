import { Link } from '@tanstack/react-router'
import type { ReactNode } from 'react'

const PAGES = [
  { to: '/register', words: 'Documents' },
  { to: '/register/sets', words: 'Drawing sets' },
  { to: '/register/out', words: 'Checked out' },
  { to: '/register/planned', words: 'Planned' },
  { to: '/register/attached', words: 'Attached' },
  { to: '/register/links', words: 'Links' },
] as const

/** The head of the register's pages. */
export function RegisterNav({ children }: { children?: ReactNode }) {
  return (
    <header className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-2">
      <h1 className="text-head font-semibold">Register</h1>
      <nav aria-label="Register" className="flex max-w-full flex-wrap gap-1">
        {PAGES.map((page) => (
          <Link
            key={page.to}
            to={page.to}
            activeOptions={{ exact: true, includeSearch: false }}
            className="rounded-[3px] px-2 py-1 text-list whitespace-nowrap text-second hover:text-ink"
            activeProps={{ className: 'bg-plum-tint font-semibold !text-ink', 'aria-current': 'page' }}
          >
            {page.words}
          </Link>
        ))}
      </nav>
      <div className="ml-auto flex max-w-full flex-wrap items-center gap-2">{children}</div>
    </header>
  )
}
