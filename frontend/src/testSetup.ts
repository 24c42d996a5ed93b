import '@testing-library/jest-dom/vitest'

import { cleanup, configure } from '@testing-library/react'
import { afterEach } from 'vitest'

import { forgetPage } from './ui/drafts'

// What comes late on a busy machine comes all the same.
configure({ asyncUtilTimeout: 20_000 })

afterEach(() => {
  cleanup()
  localStorage.clear()
  sessionStorage.clear()
  forgetPage()
})
