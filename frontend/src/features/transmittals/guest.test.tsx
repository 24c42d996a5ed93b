import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { GuestPage } from './GuestPage'

const GET = vi.fn()
const POST = vi.fn()
vi.mock('../../api/client', () => ({
  api: {
    GET: (...asked: unknown[]) => GET(...asked) as unknown,
    POST: (...asked: unknown[]) => POST(...asked) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))
vi.mock('@tanstack/react-router', async (original) => ({
  ...(await original<object>()),
  useParams: () => ({ token: 'tok' }),
}))

const transmittal = {
  project: 'Brackwater Ferry Terminal',
  number: 'HBC-T-0001',
  sent_by: { name: 'Marit Osei' },
  company: 'Hollinbrook Contracting',
  purpose: 'For construction',
  sent_at: '2027-03-04T10:00:00Z',
  recipient: { name: 'Bram Hale', company: 'GME' },
  note: 'For the pour.',
  answer_wanted_on: '2027-03-12',
  packed: true,
  pack_bytes: 2_500_000,
  acknowledged_at: null as string | null,
  verdict_set: [],
  documents: [
    {
      revision_id: 'r1',
      number: 'BFT-TRA-1',
      revision: 'P01',
      current_revision: 'P02',
      title: 'Roof plan',
      verdict: '',
    },
  ],
}

beforeEach(() => {
  vi.clearAllMocks()
  GET.mockResolvedValue(transmittal)
  POST.mockResolvedValue(undefined)
})

const told = (path: string) => POST.mock.calls.filter(([said]) => said === path).length

describe('a transmittal by a mailed link', () => {
  it('says who sends what, and that something newer holds since', async () => {
    await renderSeated(<GuestPage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('Transmittal HBC-T-0001')
    expect(screen.getByText(/sends you 1 document\. For construction\./)).toBeInTheDocument()
    expect(screen.getByText('(superseded by P02 since)')).toBeInTheDocument()
    expect(screen.getByText(/An answer is wanted by/)).toBeInTheDocument()
    expect(screen.getByText(/For the pour/)).toBeInTheDocument()
    await waitFor(() => expect(told('/api/links/{token}/opened')).toBe(1))
  })

  it('gives the files by plain forms, so that each is recorded and streamed', async () => {
    await renderSeated(<GuestPage />)
    const all = await screen.findByRole('button', { name: /^Download all, ZIP/ })
    const form = all.closest('form')
    expect(form).toHaveAttribute('action', '/api/links/tok/parts/pack')
    expect(form).toHaveAttribute('method', 'post')
    expect(screen.getByRole('button', { name: 'Cover sheet, PDF' }).closest('form')).toHaveAttribute(
      'action',
      '/api/links/tok/parts/cover',
    )
  })

  it('is acknowledged once', async () => {
    await renderSeated(<GuestPage />)
    POST.mockImplementation((path: string) => {
      if (path.endsWith('/acknowledge'))
        GET.mockResolvedValue({ ...transmittal, acknowledged_at: '2027-03-09T08:30:00Z' })
      return Promise.resolve()
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Acknowledge that I have it' }))
    expect(await screen.findByText(/^Acknowledged .* Thank you\.$/)).toBeInTheDocument()
    expect(told('/api/links/{token}/acknowledge')).toBe(1)
    expect(screen.queryByRole('button', { name: /Acknowledge/ })).toBeNull()
  })

  it('says so while it is packed', async () => {
    GET.mockResolvedValue({ ...transmittal, packed: false })
    await renderSeated(<GuestPage />)
    expect(await screen.findByText('The documents are being packed …')).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /ZIP/ })).toBeNull()
  })

  it('that leads nowhere says what to do', async () => {
    GET.mockRejectedValue(new Error('not found'))
    await renderSeated(<GuestPage />)
    expect(await screen.findByRole('heading')).toHaveTextContent('This link leads nowhere')
    expect(POST).not.toHaveBeenCalled()
  })
})
