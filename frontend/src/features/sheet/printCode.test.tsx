import { screen } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { CodePage } from './CodePage'

const GET = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { GET: (...asked: unknown[]) => GET(...asked) as unknown },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))
vi.mock('@tanstack/react-router', async (original) => ({
  ...(await original<object>()),
  useParams: () => ({ code: 'abc' }),
}))

beforeEach(() => {
  vi.clearAllMocks()
})

describe('the code on a print', () => {
  it.each([
    [true, '✓ Current', /is the one that holds/],
    [false, '✗ Superseded', /Do not build from it/],
  ])('tells whether the revision holds: %s', async (current, heading, words) => {
    GET.mockResolvedValue({ current, at: '2027-03-09T08:30:00Z' })
    await renderSeated(<CodePage />)
    expect(await screen.findByRole('heading')).toHaveTextContent(heading)
    expect(screen.getByText(words)).toBeInTheDocument()
    expect(screen.getByText(/^Asked 9 Mar 2027/)).toBeInTheDocument()
  })

  it('that no print has is not said to be superseded', async () => {
    GET.mockRejectedValue(new Error('not found'))
    await renderSeated(<CodePage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('No print has this code')
    expect(screen.queryByText(/Superseded/)).toBeNull()
  })
})
