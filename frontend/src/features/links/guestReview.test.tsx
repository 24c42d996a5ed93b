import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { GuestReview } from './GuestReview'
import type { Entered } from './guestVisit'

const GET = vi.fn()
const POST = vi.fn()
const PUT = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...asked: unknown[]) => GET(...asked) as unknown,
    POST: (...asked: unknown[]) => POST(...asked) as unknown,
    PUT: (...asked: unknown[]) => PUT(...asked) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))

const document = (number: string, asked = true) => ({
  document_id: `d${number}`,
  revision_id: `r${number}`,
  number: `BFT-PLS-${number}`,
  revision: 'P01',
  title: 'Steel connections',
  status: 'S3',
  file_name: 'x.pdf',
  size_bytes: 13_000,
  pages: [],
  musts: [],
  asked,
})
const comment = {
  id: 'c1',
  number: 1,
  version: 3,
  document_id: 'd1',
  place: '',
  page: null,
  by: { id: 'p2', name: 'Leilani Brandt', company: 'PLS', job: '' },
  text: 'Tray 4 crosses the smoke curtain.',
  grave: 'must',
  response: '',
  close_note: '',
  open: true,
}
const part = {
  project: 'BFT Brackwater Ferry Terminal',
  number: 'RV-0010',
  name: 'Steel details',
  message: '',
  given_by: { id: 'p1', name: 'Marit Osei', company: 'HBC', job: '' },
  guest: 'Yusuf Haldane',
  state: 'asked',
  taken_by: '',
  step_id: 's1',
  step: 'Shop check',
  act: 'decide',
  due_on: '2027-03-12',
  documents: [document('1'), document('2')],
  comments: [] as object[],
  verdict_set: [
    { code: 'A', words: 'proceed', severity: 1, may_be_used: true, needs_revision: false },
    { code: 'C', words: 'revise', severity: 3, may_be_used: false, needs_revision: true },
  ],
  begun: [{ document_id: 'd2', verdict: 'A', comment: '', grave: 'should' }],
  tile_px: 512,
  first_level: 8,
  whole_level: 10,
  large_level: 11,
  top_level: 14,
  drawn_with: { inks: {}, symbols: {}, cloud_arc_mm: 4, symbol_mm: 8, count_mm: 4, tick_mm: 2, value_mm: 3 },
}
const visit: Entered = {
  guest: 'secret',
  kind: 'review',
  target: 'v1',
  name: 'Yusuf Haldane',
  allows: ['look'],
}

let found: object = part

beforeEach(() => {
  vi.clearAllMocks()
  localStorage.clear()
  found = part
  GET.mockImplementation((path: string) => Promise.resolve(path.endsWith('/marks') ? { marks: [] } : found))
  POST.mockResolvedValue(undefined)
  PUT.mockResolvedValue(undefined)
})

const show = () => renderSeated(<GuestReview visit={visit} onClosed={() => undefined} />)

describe('a part by a link', () => {
  it('is handed in with what was begun, and only once every document has its verdict', async () => {
    await show()
    const strip = await screen.findByRole('region', { name: 'Your part in RV-0010, Shop check' })
    expect(within(strip).getByText('1 of 2')).toBeInTheDocument()
    await userEvent.click(within(strip).getByRole('button', { name: 'Hand in …' }))
    const dialog = await screen.findByRole('dialog')
    expect(within(dialog).getByText(/1 document without a verdict yet/)).toBeInTheDocument()
    await userEvent.click(within(dialog).getByRole('button', { name: 'Hand in verdicts' }))
    expect(POST).not.toHaveBeenCalled()
    await userEvent.click(within(dialog).getByRole('button', { name: 'C revise for the rest' }))
    await userEvent.click(within(dialog).getByRole('button', { name: 'Hand in verdicts' }))
    const [path, asked] = POST.mock.calls[0] as [string, { body: { answers: object[] }; headers: object }]
    expect(path).toBe('/api/guest/review/steps/{step_id}/hand-in')
    expect(asked.headers).toEqual({ 'X-Nod-Guest': 'secret' })
    expect(asked.body.answers).toMatchObject([
      { document_id: 'd1', verdict: 'C' },
      { document_id: 'd2', verdict: 'A' },
    ])
  })

  it('says who has picked the step up, and asks for nothing', async () => {
    found = { ...part, state: 'taken', taken_by: 'Anouk Ferreira' }
    await show()
    expect(await screen.findByText(/Anouk Ferreira has picked this step up/)).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: 'Hand in …' })).toBeNull()
  })

  it('thanks when it is over', async () => {
    found = { ...part, state: 'handed_in', documents: [] }
    await show()
    expect(await screen.findByText('Handed in. Thank you.')).toBeInTheDocument()
  })

  it('takes a response to what was said of ones own document, and never an empty one', async () => {
    found = { ...part, state: 'none', documents: [document('1', false)], comments: [comment] }
    await show()
    expect(await screen.findByText('1 comment on your documents without a response yet.')).toBeInTheDocument()
    const send = screen.getByRole('button', { name: 'Send the response' })
    expect(send).toHaveAttribute('aria-disabled', 'true')
    await userEvent.type(screen.getByLabelText('Your response'), 'Moved to grid 4.')
    await userEvent.click(send)
    expect(POST.mock.calls[0]).toMatchObject([
      '/api/guest/review/comments/{comment_id}/respond',
      { params: { path: { comment_id: 'c1' } }, body: { version: 3, text: 'Moved to grid 4.' } },
    ])
  })

  it('leads from what is asked to the comments and back', async () => {
    found = { ...part, comments: [comment] }
    await show()
    await userEvent.click(await screen.findByRole('button', { name: '1 comment on your documents' }))
    expect(screen.getByText('Tray 4 crosses the smoke curtain.')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Back to Shop check' }))
    expect(screen.getByRole('region', { name: 'Your part in RV-0010, Shop check' })).toBeInTheDocument()
  })
})
