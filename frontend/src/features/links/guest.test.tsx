import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { Refused } from '../../api/problems'
import { Visit } from './LinkPage'

const GET = vi.fn()
const POST = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...asked: unknown[]) => GET(...asked) as unknown,
    POST: (...asked: unknown[]) => POST(...asked) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
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
  files_packed: 2,
  pack_bytes: 2_500_000,
  acknowledged_at: null as string | null,
  acknowledged_note: '',
  downloaded_at: null,
  expires_on: null,
  allows: ['look', 'download', 'acknowledge'],
  files_taken: [] as string[],
  void: null,
  verdict_set: [],
  documents: [
    {
      revision_id: 'r1',
      number: 'BFT-TRA-1',
      revision: 'P01',
      standing: { kind: 'superseded', words: 'Superseded. In force is P02.' },
      older_then: false,
      title: 'Roof plan',
      verdict: '',
      along: [
        { place: 3, words: 'stamped copy', file: 'roof_stamped.pdf', size_bytes: 2_100_000, fault: '' },
        { place: 4, words: 'copy with the marks', file: 'roof_marks.pdf', size_bytes: 0, fault: 'Locked.' },
      ],
    },
  ],
}

const front = {
  project: 'BFT Brackwater Ferry Terminal',
  given_by: { id: 'p1', name: 'Marit Osei', company: 'HBC', job: '' },
  kind: 'transmittal',
  kind_words: 'transmittal',
  to: null,
  needs_name: false,
  needs_password: false,
  needs_sign_in: false,
  ends_at: null,
  closed: '',
}
const entered = { guest: 'secret', kind: 'transmittal', target: 't1', name: 'Bram Hale', allows: ['look'] }

let looked: object = front

beforeEach(() => {
  vi.clearAllMocks()
  sessionStorage.clear()
  looked = front
  GET.mockResolvedValue(transmittal)
  POST.mockImplementation((path: string) =>
    Promise.resolve(path.endsWith('/look') ? looked : path.endsWith('/enter') ? entered : undefined),
  )
})

const told = (path: string) => POST.mock.calls.filter(([said]) => said === path).length

async function open() {
  await renderSeated(<Visit token="tok" />)
  await userEvent.click(await screen.findByRole('button', { name: 'Open it' }))
}

describe('a link', () => {
  it('says from whom it is, and opens with a deliberate press only', async () => {
    await renderSeated(<Visit token="tok" />)
    expect(await screen.findByRole('heading')).toHaveTextContent('A transmittal for you')
    expect(screen.getByText(/From Marit Osei/)).toBeInTheDocument()
    expect(told('/api/guest/enter')).toBe(0)
    await userEvent.click(screen.getByRole('button', { name: 'Open it' }))
    expect(await screen.findByRole('heading')).toHaveTextContent('Transmittal HBC-T-0001')
    expect(told('/api/guest/enter')).toBe(1)
    expect(GET).toHaveBeenCalledWith('/api/guest/transmittal', { headers: { 'X-Nod-Guest': 'secret' } })
  })

  it('asks for a name and a password where they are wanted', async () => {
    looked = { ...front, needs_name: true, needs_password: true }
    await renderSeated(<Visit token="tok" />)
    const open = await screen.findByRole('button', { name: 'Open it' })
    expect(open).toBeDead()
    await userEvent.type(screen.getByLabelText('Your name'), 'Bram Hale')
    expect(open).toBeDead()
    await userEvent.type(screen.getByLabelText('Password of the link'), 'quiet')
    await userEvent.click(open)
    expect(POST).toHaveBeenCalledWith('/api/guest/enter', {
      body: { token: 'tok', name: 'Bram Hale', password: 'quiet' },
    })
  })

  it('that is closed says why and whom to ask', async () => {
    looked = { ...front, closed: 'This link has expired.' }
    await renderSeated(<Visit token="tok" />)
    expect(await screen.findByRole('heading')).toHaveTextContent('This link has expired.')
    expect(screen.getByText('Ask Marit Osei for a new one.')).toBeInTheDocument()
    expect(screen.queryByRole('button')).toBeNull()
  })

  it('that leads nowhere says what to do', async () => {
    POST.mockRejectedValue(
      new Refused({ code: 'not_found', status: 404, title: '', detail: '', type: '', about: '' }),
    )
    await renderSeated(<Visit token="tok" />)
    expect(await screen.findByRole('heading')).toHaveTextContent('This link leads nowhere')
    expect(GET).not.toHaveBeenCalled()
  })

  it('goes back to its front when it closes meanwhile', async () => {
    GET.mockRejectedValue(new Error('over'))
    await open()
    await userEvent.click(await screen.findByRole('button', { name: 'Back to the link' }))
    expect(await screen.findByRole('button', { name: 'Open it' })).toBeInTheDocument()
    expect(sessionStorage.length).toBe(0)
  })
})

describe('a transmittal by a link', () => {
  it('says who sends what, and that something newer holds since', async () => {
    await open()
    expect(await screen.findByText(/sends you 1 document\. For construction\./)).toBeInTheDocument()
    expect(screen.getByText('(since: Superseded. In force is P02.)')).toBeInTheDocument()
    expect(screen.getByText(/An answer is wanted by/)).toBeInTheDocument()
    expect(screen.getByText(/For the pour/)).toBeInTheDocument()
    expect(screen.getByRole('button', { name: /^Download all, ZIP/ })).toBeInTheDocument()
  })

  it('is acknowledged once', async () => {
    await open()
    GET.mockResolvedValue({ ...transmittal, acknowledged_at: '2027-03-09T08:30:00Z' })
    await userEvent.type(await screen.findByLabelText(/^A note with it/), 'Sheet 2 is cut off.')
    await userEvent.click(screen.getByRole('button', { name: 'Acknowledge that I have it' }))
    expect(await screen.findByText(/^Acknowledged .* Thank you\.$/)).toBeInTheDocument()
    expect(told('/api/guest/transmittal/acknowledge')).toBe(1)
    expect(POST).toHaveBeenCalledWith(
      '/api/guest/transmittal/acknowledge',
      expect.objectContaining({ body: { note: 'Sheet 2 is cut off.' } }),
    )
    expect(screen.queryByRole('button', { name: /Acknowledge/ })).toBeNull()
  })

  it('offers what goes along with a document, where it could be made', async () => {
    await open()
    expect(
      await screen.findByRole('button', { name: 'stamped copy of BFT-TRA-1, download' }),
    ).toHaveAttribute('title', 'roof_stamped.pdf, 2.1 MB')
    expect(screen.queryByRole('button', { name: /copy with the marks/ })).toBeNull()
  })

  it('gives nothing to take where it was sent to look at only', async () => {
    GET.mockResolvedValue({ ...transmittal, allows: ['look', 'acknowledge'] })
    await open()
    expect(await screen.findByText('It was sent to be looked at, not downloaded.')).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'Look at BFT-TRA-1' })).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /Download/ })).toBeNull()
  })

  it('says so while it is packed', async () => {
    GET.mockResolvedValue({ ...transmittal, packed: false, files_packed: 1 })
    await open()
    expect(await screen.findByText(/The ZIP is being packed, 1 of \d …/)).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /ZIP/ })).toBeNull()
  })
})
