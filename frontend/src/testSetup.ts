import '@testing-library/jest-dom/vitest'

import { cleanup, configure } from '@testing-library/react'
import { afterEach, expect } from 'vitest'

import { forgetPage } from './ui/drafts'

// A dead button can be come to, and says why: it is not `disabled`.
expect.extend({
  toBeDead(element: HTMLElement) {
    const pass = element.hasAttribute('disabled') || element.getAttribute('aria-disabled') === 'true'
    return { pass, message: () => `expected the button ${pass ? 'not ' : ''}to be dead` }
  },
})

declare module 'vitest' {
  interface Assertion {
    toBeDead: () => void
  }
}

// What comes late on a busy machine comes all the same.
configure({ asyncUtilTimeout: 20_000 })

afterEach(() => {
  cleanup()
  localStorage.clear()
  sessionStorage.clear()
  forgetPage()
})
