import { screen } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { CoverPage } from './CoverPage'

const GET = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { GET: (...asked: unknown[]) => GET(...asked) as unknown },
  unwrapAs: (answer: Promise<unknown>) => answer,
}))
vi.mock('@tanstack/react-router', async (original) => ({
  ...(await original<object>()),
  useParams: () => ({ code: 'abc' }),
}))

const told = {
  number: 'HBC-T-0001',
  company: 'Hollinbrook Contracting',
  sent_at: '2027-03-04T10:00:00Z',
  void_at: null as string | null,
  replaced_by: '',
  holding: 1,
  at: '2027-03-09T08:30:00Z',
  documents: [
    { number: 'BFT-1', revision: 'C01', kind: 'in_force', words: 'In force.', holds: true },
    {
      number: 'BFT-2',
      revision: 'C01',
      kind: 'superseded',
      words: 'Superseded. In force is C02.',
      holds: false,
    },
    {
      number: 'BFT-3',
      revision: 'P01',
      kind: 'unreleased',
      words: 'Not released. Nothing of it is in force.',
      holds: false,
    },
  ],
}

beforeEach(() => {
  vi.clearAllMocks()
})

describe('the code on a cover sheet', () => {
  it('tells of each line whether it still holds', async () => {
    GET.mockResolvedValue(told)
    await renderSeated(<CoverPage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('1 of 3 in force')
    expect(screen.getAllByRole('listitem').map((each) => each.textContent)).toEqual([
      'BFT-1 C01✓ In force.',
      'BFT-2 C01✗ Superseded. In force is C02.',
      'BFT-3 P01○ Not released. Nothing of it is in force.',
    ])
  })

  it('says that it is void, and what came in its place', async () => {
    GET.mockResolvedValue({ ...told, void_at: '2027-03-05T10:00:00Z', replaced_by: 'HBC-T-0002' })
    await renderSeated(<CoverPage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('✗ Void. In its place came HBC-T-0002.')
    expect(screen.getByText(/Do not work from it/)).toBeInTheDocument()
    expect(screen.queryByRole('listitem')).toBeNull()
  })

  it('that no cover has is not said to hold', async () => {
    GET.mockRejectedValue(new Error('not found'))
    await renderSeated(<CoverPage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('No cover sheet has this code')
  })
})
