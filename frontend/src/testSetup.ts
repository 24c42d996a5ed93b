import '@testing-library/jest-dom/vitest'

import { cleanup, configure } from '@testing-library/react'
import { afterEach } from 'vitest'

// What comes late on a busy machine comes all the same.
configure({ asyncUtilTimeout: 20_000 })

afterEach(cleanup)
