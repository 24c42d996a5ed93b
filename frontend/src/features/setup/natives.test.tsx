import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated, SEAT } from '../../testSeat'
import { NativesSection } from './NativesSection'

const PUT = vi.fn()
let forms = [
  { code: 'D', words: 'drawing' },
  { code: 'S', words: 'schedule' },
]

vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { PUT: (...asked: unknown[]) => PUT(...asked) as unknown },
  unwrap: (answer: Promise<unknown>) => answer,
}))
vi.mock('./useSetup', async (original) => ({
  ...(await original<object>()),
  useSetup: () => ({ data: { version: 3, forms, native_forms: ['S'] }, error: null }),
}))

beforeEach(() => {
  vi.clearAllMocks()
  PUT.mockResolvedValue({ version: 4 })
  SEAT.project.leads = true
})

describe('the natives asked for', () => {
  it('are ticked by form and saved with the version seen', async () => {
    await renderSeated(<NativesSection />)
    expect(screen.getByLabelText(/schedule/)).toBeChecked()
    await userEvent.click(screen.getByLabelText(/drawing/))
    await userEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(PUT).toHaveBeenCalledExactlyOnceWith('/api/projects/{project_id}/natives', {
      params: { path: { project_id: 'bft' } },
      body: { version: 3, forms: ['S', 'D'] },
    })
  })

  it('cannot be asked for where numbers say no form', async () => {
    forms = []
    await renderSeated(<NativesSection />)
    expect(screen.getByText(/say no form/)).toBeVisible()
  })
})
