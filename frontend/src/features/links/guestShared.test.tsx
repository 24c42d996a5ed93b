import { screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { GuestShared } from './GuestShared'

const GET = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { GET: (...asked: unknown[]) => GET(...asked) as unknown },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))

const VISIT = { guest: 'g', kind: 'shared_set', target: 't', name: 'Otto Brenner', allows: ['download'] }
const revision = (id: string, code: string, in_force: boolean, latest: boolean) => ({
  id,
  code,
  status: 'S4',
  in_force,
  latest,
  size_bytes: 1200,
})
const LIST = {
  project: 'BFT Brackwater',
  kind_words: 'drawing set',
  name: 'Piling',
  given_by: { id: 'p', name: 'Marit Osei', company: 'HBC', initials: 'MO', job: '' },
  guest: 'Otto Brenner',
  allows: ['download'],
  lines: [
    {
      number: 'A-1',
      title: 'Hinge',
      revisions: [revision('r2', 'C02', false, true), revision('r1', 'C01', true, false)],
    },
    { number: 'A-2', title: 'Piles', revisions: [revision('r3', 'P01', false, true)] },
  ],
  total: 130,
  capped: true,
}

async function show(list: object) {
  GET.mockResolvedValue(list)
  await renderSeated(<GuestShared visit={VISIT} onClosed={vi.fn()} />)
}

describe('a list by a link', () => {
  it('says what is not to be worked from yet, beside what is in force', async () => {
    await show(LIST)
    const [first, second] = await screen.findAllByRole('listitem')
    if (!first || !second) throw new Error('two documents are listed')
    expect(within(first).getByText('status S4, the latest; not to be worked from yet')).toBeInTheDocument()
    expect(within(first).getByText('status S4, in force')).toBeInTheDocument()
    expect(within(second).getByText('status S4, not in force')).toBeInTheDocument()
    expect(screen.getByText(/^There are more than a link shows/)).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'Show 100 more' })).toBeInTheDocument()
    expect(screen.getAllByRole('button', { name: /^Download, / })).toHaveLength(3)
  })

  it('is only looked at where the link allows no more', async () => {
    await show({ ...LIST, allows: [], lines: [], total: 0, capped: false })
    expect(await screen.findByText('There is nothing in it now.')).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /^Download/ })).toBeNull()
  })
})
