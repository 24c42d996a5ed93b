import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated, SEAT } from '../../testSeat'
import { PurposesSection } from './PurposesSection'

const PUT = vi.fn()
const know = { code: 'information', words: 'For information', answer_days: 0, released: false, statuses: [] }
const build = { code: 'construction', words: 'To build', answer_days: 0, released: true, statuses: [] }

vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { PUT: (...asked: unknown[]) => PUT(...asked) as unknown },
  unwrap: (answer: Promise<unknown>) => answer,
}))
vi.mock('./useSetup', async (original) => ({
  ...(await original<object>()),
  useSetup: () => ({
    data: { version: 3, purposes: [know, build], statuses: [{ code: 'S4', words: 'Suitable' }] },
    error: null,
  }),
}))

beforeEach(() => {
  vi.clearAllMocks()
  PUT.mockResolvedValue({ version: 4 })
  SEAT.project.leads = true
})

describe('the purposes of issue', () => {
  it('are renamed, added with what they ask, and saved', async () => {
    await renderSeated(<PurposesSection />)
    expect(screen.queryByRole('button', { name: 'Take For information away' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Take To build away' }))
    await userEvent.click(screen.getByRole('button', { name: 'Add a purpose' }))
    const words = screen.getByLabelText('Words of purpose 2')
    expect(words).toHaveFocus()
    await userEvent.type(words, 'For tender')
    const days = screen.getByLabelText('Working days for an answer, For tender; empty for none')
    await userEvent.clear(days)
    await userEvent.type(days, '10')
    await userEvent.type(
      screen.getByRole('combobox', { name: 'Only at these statuses, For tender' }),
      'S4{Enter}',
    )
    await userEvent.click(screen.getByRole('button', { name: 'Save' }))
    const tender = { code: '', words: 'For tender', answer_days: 10, released: false, statuses: ['S4'] }
    expect(PUT).toHaveBeenCalledExactlyOnceWith('/api/projects/{project_id}/purposes', {
      params: { path: { project_id: 'bft' } },
      body: { version: 3, purposes: [know, tender] },
    })
  })

  it('are only read by who does not lead', async () => {
    SEAT.project.leads = false
    await renderSeated(<PurposesSection />)
    expect(screen.getByLabelText('Words of purpose 1')).toBeDisabled()
    expect(screen.queryByRole('button', { name: 'Add a purpose' })).toBeNull()
  })
})
