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
    ['in_force', '✓ In force', /^P02, which your print shows, is the one to work from\.$/],
    ['ahead', '✓ In force', /A later one is not released yet/],
    ['not_released', '○ Not released', /C01 is in force/],
    ['superseded', '✗ Superseded', /Do not build from P02.*C01 is in force/],
    [
      'passed',
      '✗ Superseded',
      /Do not build from P02.*Another revision is in force; ask your document controller/,
    ],
    ['withdrawn', '✗ Withdrawn', /was withdrawn/],
  ])('tells whether the revision is in force: %s', async (kind, heading, words) => {
    GET.mockResolvedValue({ kind, revision: 'P02', in_force: 'C01', at: '2027-03-09T08:30:00Z' })
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
