import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { SendPage } from './SendPage'

const POST = vi.fn()
const answers: Record<string, unknown> = {}
const asked = {
  review: undefined as string | undefined,
  revisions: undefined as string | undefined,
  set: undefined as string | undefined,
  draft: undefined as string | undefined,
}
const navigate = vi.fn()

vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (path: string) => Promise.resolve(answers[path]),
    POST: (...said: unknown[]) => POST(...said) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
}))
vi.mock('@tanstack/react-router', async (original) => ({
  ...(await original<object>()),
  useSearch: () => asked,
  useNavigate: () => navigate,
}))

const sheet = { number: 'BFT-TRA-1', revision: 'P02', title: 'Quay hall, roof plan', verdict: 'A' }
const person = (id: string, name: string, outside = false) => ({
  who: { id, name, company: 'GME', job: 'engineer' },
  company_name: 'Gannet Marine',
  outside,
  roles: outside ? [] : ['reviewer'],
})

interface Said {
  body: { purpose?: string; revisions?: string[]; set_id?: string }
}

/** What is asked before it is sent. */
function answerTo(path: string, { body }: Said, stops: string[] = []) {
  if (path.endsWith('/check'))
    return { lines: stops.length ? [{ revision_id: 'r1', stops, notes: [] }] : [], stops: stops.length }
  if (path !== '/api/documents/chosen') return undefined
  const ids = body.set_id ? ['r1', 'r2'] : (body.revisions ?? [])
  const lines = ids.map((id) => ({ ...sheet, id: `d${id}`, revision_id: id }))
  return { lines, missing: 0, name: body.set_id ? 'Stage 3' : '' }
}

beforeEach(() => {
  vi.clearAllMocks()
  Object.assign(asked, { review: undefined, revisions: 'r1,r2', set: undefined })
  answers['/api/addressees'] = {
    people: [person('ottilie', 'Ottilie Vane'), person('bram', 'Bram Hale', true)],
    purposes: [
      { code: 'information', words: 'Information' },
      { code: 'construction', words: 'Construction' },
    ],
    roles: [{ code: 'reviewer', words: 'Reviewer' }],
    attach_mb: 0,
  }
  POST.mockImplementation((path: string, said: Said) => Promise.resolve(answerTo(path, said) ?? { id: 't9' }))
})

const sent = () =>
  POST.mock.calls
    .filter(([path]) => path === '/api/transmittals')
    .map((call) => (call[1] as { body: object }).body)

async function opened() {
  await renderSeated(<SendPage />)
  await screen.findByRole('heading', { name: 'Send out' })
}

describe('sending out', () => {
  it('says to whom what goes before it does, and sends exactly these revisions', async () => {
    await opened()
    expect(screen.getByText('2 documents, at exactly these revisions')).toBeInTheDocument()
    expect(screen.getByText('Choose who receives it.')).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'Send to …' })).toBeDead()
    await userEvent.click(await screen.findByRole('checkbox', { name: /Ottilie/ }))
    await userEvent.click(screen.getByRole('checkbox', { name: /Bram.*outside contact/ }))
    expect(screen.getByText(/Ottilie Vane, Bram Hale will get a mail/)).toBeInTheDocument()
    await userEvent.type(screen.getByLabelText('Covering note'), 'For the pour.')
    await userEvent.selectOptions(screen.getByLabelText('Purpose of issue'), 'construction')
    await userEvent.click(screen.getByRole('checkbox', { name: /^To look at only/ }))
    expect(screen.getByText(/a link to look at all documents, not to download them/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Send to 2' }))
    await waitFor(() => expect(navigate).toHaveBeenCalledOnce())
    expect(sent()).toEqual([
      {
        project_id: 'bft',
        revisions: ['r1', 'r2'],
        people: ['ottilie', 'bram'],
        copied: [],
        purpose: 'construction',
        note: 'For the pour.',
        answer_wanted_on: null,
        natives: false,
        stamped: false,
        marks: '',
        record: null,
        view_only: true,
        expires_on: null,
        review_id: null,
        replaces: '',
        draft_id: '',
        draft_version: 0,
      },
    ])
    expect(navigate).toHaveBeenCalledWith({
      to: '/transmittals/$transmittalId',
      params: { transmittalId: 't9' },
    })
  })

  it('says what goes along, and what is attached to the mail then', async () => {
    Object.assign(answers['/api/addressees'] as object, { attach_mb: 10 })
    await opened()
    expect(await screen.findByText(/Up to 10 MB together/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('checkbox', { name: /native files/ }))
    await userEvent.click(screen.getByRole('checkbox', { name: /^Stamped copies/ }))
    await userEvent.selectOptions(screen.getByLabelText('Of their marks'), 'summary')
    expect(screen.getByText(/Like this, files are fetched by the link/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Reviewer, all in the role' }))
    await userEvent.click(screen.getByRole('button', { name: 'Send to 1' }))
    await waitFor(() => expect(navigate).toHaveBeenCalledOnce())
    expect(sent()).toMatchObject([{ natives: true, stamped: true, marks: 'summary', people: ['ottilie'] }])
  })

  it('fills in what the matrix says, and says what it says', async () => {
    const said = {
      people: ['bram'],
      copied: ['ottilie'],
      purpose: 'construction',
      lines: ['A D, when it is filed'],
      uncovered: 1,
    }
    POST.mockImplementation((path: string, asked: Said) =>
      Promise.resolve(path.endsWith('/by-matrix') ? said : (answerTo(path, asked) ?? { id: 't9' })),
    )
    await opened()
    await userEvent.click(await screen.findByRole('button', { name: 'As the matrix says' }))
    expect(await screen.findByText(/1 to act, 1 to know. It says nothing of 1 document./)).toBeInTheDocument()
    expect(screen.getByRole('checkbox', { name: /Bram/ })).toBeChecked()
    expect(screen.getByLabelText('Purpose of issue')).toHaveValue('construction')
    expect(screen.getByText(/A copy goes to Ottilie Vane/)).toBeInTheDocument()
  })

  it('warns by the purpose that is chosen, and leaves the choice to the sender', async () => {
    POST.mockImplementation((path: string, said: Said) => {
      const stops = said.body.purpose === 'construction' ? ['Not released.'] : []
      return Promise.resolve(answerTo(path, said, stops) ?? { id: 't9' })
    })
    await opened()
    expect(screen.queryByRole('alert')).toBeNull()
    await userEvent.selectOptions(await screen.findByLabelText('Purpose of issue'), 'construction')
    expect(await screen.findByRole('alert')).toHaveTextContent('1 line with a reason')
    expect(screen.getByText('Not released.')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('checkbox', { name: /Ottilie/ }))
    expect(screen.getByRole('button', { name: 'Send to 1' })).not.toBeDead()
  })

  it('keeps what was written when it is refused', async () => {
    POST.mockImplementation((path: string, said: Said) => {
      const answer = answerTo(path, said)
      return answer ? Promise.resolve(answer) : Promise.reject(new Error('refused'))
    })
    await opened()
    await userEvent.click(await screen.findByRole('checkbox', { name: /Ottilie/ }))
    await userEvent.type(screen.getByLabelText('Covering note'), 'For the pour.')
    await userEvent.click(screen.getByRole('button', { name: 'Send to 1' }))
    expect(await screen.findByRole('alert')).toBeInTheDocument()
    expect(screen.getByLabelText('Covering note')).toHaveValue('For the pour.')
    expect(screen.getByRole('checkbox', { name: /Ottilie/ })).toBeChecked()
    expect(navigate).not.toHaveBeenCalled()
  })

  it('sends a drawing set in one step, and copies others', async () => {
    Object.assign(asked, { revisions: undefined, set: 's1' })
    await opened()
    expect(screen.getByRole('heading', { name: /Stage 3: 2 documents/ })).toBeInTheDocument()
    await userEvent.click(await screen.findByRole('checkbox', { name: /Ottilie/ }))
    await userEvent.type(screen.getByRole('combobox', { name: 'Copied, for information' }), 'bram{Enter}')
    expect(screen.getByText(/A copy goes to Bram Hale, of whom nothing is wanted\./)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Send to 1' }))
    await waitFor(() =>
      expect(sent()).toEqual([
        expect.objectContaining({ revisions: ['r1', 'r2'], people: ['ottilie'], copied: ['bram'] }),
      ]),
    )
  })

  it('takes a recipient back', async () => {
    await opened()
    const ottilie = await screen.findByRole('checkbox', { name: /Ottilie/ })
    await userEvent.click(ottilie)
    await userEvent.click(ottilie)
    expect(screen.getByRole('button', { name: 'Send to …' })).toBeDead()
  })

  it('sends what a closed review was about, and says from which', async () => {
    Object.assign(asked, { review: 'rv1', revisions: undefined })
    answers['/api/reviews/{review_id}'] = { documents: [{ ...sheet, revision_id: 'r7' }] }
    await opened()
    expect(screen.getByText('1 document, at exactly these revisions')).toBeInTheDocument()
    const lines = screen.getByRole('region', { name: 'Documents to send' })
    expect(within(lines).getByText('Quay hall, roof plan')).toBeInTheDocument()
    await userEvent.click(await screen.findByRole('checkbox', { name: /Ottilie/ }))
    await userEvent.click(screen.getByRole('button', { name: 'Send to 1' }))
    await waitFor(() =>
      expect(sent()).toEqual([expect.objectContaining({ revisions: ['r7'], review_id: 'rv1' })]),
    )
  })

  it('leaves out what has a reason with one click', async () => {
    POST.mockImplementation((path: string, said: Said) =>
      Promise.resolve(answerTo(path, said, ['Withdrawn.']) ?? { id: 't9' }),
    )
    await opened()
    await userEvent.click(await screen.findByRole('button', { name: 'Leave these out' }))
    expect(screen.getByText('1 document, at exactly these revisions')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('checkbox', { name: /Ottilie/ }))
    await userEvent.click(screen.getByRole('button', { name: 'Send to 1' }))
    await waitFor(() => expect(sent()).toEqual([expect.objectContaining({ revisions: ['r2'] })]))
  })

  it('begins with nothing, takes documents by words, and is kept as a draft', async () => {
    Object.assign(asked, { revisions: '' })
    answers['/api/documents'] = {
      lines: [
        { id: 'd1', number: 'BFT-TRA-1', title: 'Roof', revision_id: 'r2', revision: 'C02', in_force_id: 'r1', in_force: 'C01', verdict: '' },
      ],
    } // prettier-ignore
    await opened()
    expect(screen.getByText(/Nothing yet/)).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'Send to …' })).toBeDead()
    await userEvent.type(screen.getByLabelText('Add a document'), 'roof')
    await userEvent.click(await screen.findByRole('button', { name: 'Add BFT-TRA-1 C01, in force' }))
    expect(screen.getByText('1 document, at exactly these revisions')).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'Add BFT-TRA-1 C01, in force' })).toBeDead()
    await userEvent.click(screen.getByRole('button', { name: 'Keep as a draft' }))
    await waitFor(() =>
      expect(POST).toHaveBeenCalledWith(
        '/api/transmittals/drafts',
        expect.objectContaining({
          body: expect.objectContaining({ revisions: ['r1'], version: 0 }) as object,
        }),
      ),
    )
    expect(navigate).toHaveBeenCalledWith({ to: '/transmittals' })
  })
})
