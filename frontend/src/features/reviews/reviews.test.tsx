import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { HandInForm } from './HandInForm'
import { Slip } from './Slip'
import type { Review, SlipPlace, SlipStep, useStepActs } from './useReviews'

const begun = vi.fn<() => Promise<unknown>>(() => Promise.resolve([]))
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { GET: () => begun(), PUT: () => Promise.resolve() },
  unwrap: (asked: Promise<unknown>) => asked,
}))

const LEILANI = { id: 'l', name: 'Leilani Brandt', company: 'PLS', job: 'engineer' }
const ANOUK = { id: 'a', name: 'Anouk Ferreira', company: 'BHT', job: 'engineer' }
const SAOIRSE = { id: 's', name: 'Saoirse Tanaka', company: 'TRA', job: 'design lead' }

function asked(who: typeof LEILANI, more: Partial<SlipPlace> = {}): SlipPlace {
  return { who, for_whom: null, state: 'asked', at: null, stamp: '', verdicts: [], note: '', ...more }
}

const NOBODY = { may_pick_up: false, may_put_down: false, may_hand_in: false, may_hand_on: false, may_put_in: false, may_end: false, answers: [], follows: '' } // prettier-ignore
const MINE = { ...NOBODY, may_hand_in: true, answers: ['1', '2'], follows: 'Then the review closes.' }

const CHECK: SlipStep = {
  id: 'check',
  name: 'Check',
  act: 'comment',
  state: 'running',
  stage: 0,
  sums_up: false,
  verdicts: '',
  quota: 'any',
  needed: 1,
  asks: 'Leilani Brandt, Anouk Ferreira',
  asks_one: false,
  places: [asked(LEILANI), asked(ANOUK)],
  taken_by: null,
  began_at: '2027-03-04T10:00:00Z',
  taken_at: null,
  due_on: '2027-03-05',
  planned_on: '2027-03-09',
  ended_at: null,
  why_ended: '',
  days: 3,
  counting: 'working',
  days_late: 2,
  mine: NOBODY,
}

const DECIDE: SlipStep = { ...CHECK, id: 'decide', name: 'Decide', act: 'decide', state: 'waiting', stage: 1, asks: 'Saoirse Tanaka', asks_one: true, places: [], planned_on: '2027-03-12', days_late: 0 } // prettier-ignore

const VERDICTS = [
  { code: 'A', words: 'proceed', meaning: 'go', may_be_used: true, needs_new_revision: false, of_set: '' },
  {
    code: 'C',
    words: 'revise and resubmit',
    meaning: 'stop',
    may_be_used: false,
    needs_new_revision: true,
    of_set: '',
  },
]

function document(id: string): Review['documents'][number] {
  return { document_id: id, revision_id: `r${id}`, number: `BFT-${id}`, title: `Sheet ${id}`, revision: 'P01', current_revision: 'P01', verdict: '', state: 'going', proposed: '', said: [] } // prettier-ignore
}

function review(slip: SlipStep[]): Review {
  return {
    id: 'rv', project_id: 'bft', number: 'RV-0003', name: 'Boarding bridge', message: '', route_name: 'Check and decide',
    state: 'running', version: 4, started_by: LEILANI, started_at: '2027-03-02T10:00:00Z', ended_at: null,
    shows: 'at_once', shows_me: true, why_cancelled: '', forecast_end_on: '2027-03-12', ends: [], contract: null, verdict_set: VERDICTS, slip, documents: [document('1'), document('2')],
    transmittals: [], answers: null, my_part: { may_cancel: false, may_recall: false, may_swap: false, may_send: false },
  } // prettier-ignore
}

const item = (place: number) => within(screen.getAllByRole('listitem')[place] as HTMLElement)

describe('the slip', () => {
  it('says with whom, since when, due when, and how late', async () => {
    await renderSeated(<Slip review={review([CHECK, DECIDE])} />)
    expect(item(0).getByText('any one of Leilani Brandt (PLS) or Anouk Ferreira (BHT)')).toBeInTheDocument()
    expect(item(0).getByText('nobody has picked it up')).toBeInTheDocument()
    expect(item(0).getByText('5 Mar')).toBeInTheDocument()
    expect(item(0).getByText('2 d late')).toBeInTheDocument()
    expect(screen.getAllByRole('listitem')[1]).toHaveTextContent('Saoirse Tanaka, expected by 12 Mar')
  })

  it('names who has picked it up', async () => {
    await renderSeated(
      <Slip review={review([{ ...CHECK, taken_by: ANOUK, taken_at: '2027-03-08T16:05:00Z' }])} />,
    )
    expect(item(0).getByText('Anouk Ferreira (BHT)')).toBeInTheDocument()
    expect(item(0).getByText('8 Mar, 16:05')).toBeInTheDocument()
    expect(item(0).queryByText('nobody has picked it up')).toBeNull()
  })

  it('is stamped with the gravest verdict, the day and the initials', async () => {
    const done = {
      ...DECIDE,
      stage: 0,
      state: 'done',
      taken_by: SAOIRSE,
      places: [
        asked(SAOIRSE, {
          state: 'handed_in',
          at: '2027-03-08T23:30:00Z',
          stamp: 'ST',
          verdicts: ['A', 'C'],
        }),
      ],
      ended_at: '2027-03-08T23:30:00Z',
    }
    await renderSeated(<Slip review={review([done])} />)
    expect(item(0).getByText('A C')).toBeInTheDocument()
    expect(item(0).getByText('8 Mar ST')).toBeInTheDocument()
  })
})

describe('steps beside each other', () => {
  const beside = (id: string, name: string, more: Partial<SlipStep> = {}) => ({ ...CHECK, id, name, ...more })

  it('share a row, and who sums up stands below', async () => {
    const sums = { ...DECIDE, id: 'sum', name: 'Sum up', stage: 0, sums_up: true }
    await renderSeated(<Slip review={review([beside('f', 'Fire'), beside('l', 'Lifts'), sums])} />)
    const list = within(screen.getByRole('list', { name: 'Beside each other' }))
    expect(list.getAllByRole('listitem')).toHaveLength(2)
    expect(screen.getByText(/sums up, verdict on each document/)).toBeInTheDocument()
  })

  it('say who has handed in, for whom, and what was crossed out', async () => {
    const all = beside('x', 'All', {
      quota: 'all',
      places: [
        asked(SAOIRSE, { state: 'crossed', verdicts: ['C'] }),
        asked(LEILANI, { for_whom: ANOUK, state: 'handed_in', at: '2027-03-08T10:00:00Z', verdicts: ['A'] }),
        asked(SAOIRSE),
      ],
    })
    await renderSeated(<Slip review={review([all])} />)
    const hands = within(screen.getByRole('list', { name: 'Hands of All' })).getAllByRole('listitem')
    expect(hands[0]).toHaveTextContent('Saoirse Tanaka (TRA)crossed out, the stage began again')
    expect(hands[1]).toHaveTextContent('Leilani Brandt (PLS) for Anouk Ferreirahanded in')
    expect(hands[2]).toHaveTextContent('not yet')
  })

  it('a step that asks nobody says who can help', async () => {
    await renderSeated(<Slip review={review([beside('x', 'Empty', { places: [] })])} />)
    expect(screen.getByText('nobody: a lead puts somebody in, or ends it')).toBeInTheDocument()
  })
})

describe('handing in', () => {
  function acts() {
    const mutate = vi.fn()
    return { mutate, acts: { handIn: { mutate, isPending: false, error: null } } as unknown as ReturnType<typeof useStepActs> } // prettier-ignore
  }

  it('needs a verdict on each document', async () => {
    const { mutate, acts: some } = acts()
    const step = { ...DECIDE, state: 'running', mine: MINE }
    await renderSeated(<HandInForm review={review([step])} step={step} acts={some} />)
    expect(screen.getByText('Then the review closes.')).toBeInTheDocument()
    const button = screen.getByRole('button', { name: 'Hand in verdicts' })
    expect(button).toBeDead()
    expect(screen.getByText('2 without a verdict yet')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'A proceed for all' }))
    const second = screen.getByRole('radiogroup', { name: 'Verdict on BFT-2' })
    await userEvent.click(within(second).getByText('revise and resubmit'))
    await userEvent.type(screen.getByLabelText('Comment on BFT-2'), 'Truss is too low.')
    await userEvent.click(button)
    const answers = [
      { document_id: '1', revision_id: 'r1', verdict: 'A', comment: '', grave: 'should' },
      { document_id: '2', revision_id: 'r2', verdict: 'C', comment: 'Truss is too low.', grave: 'should' },
    ]
    expect(mutate).toHaveBeenCalledWith(expect.objectContaining({ note: '', answers }))
  })

  it('asks no verdict of a step that comments, and shows what was said before', async () => {
    const { mutate, acts: some } = acts()
    const second = { ...CHECK, name: 'Second check', mine: MINE }
    const it = review([{ ...CHECK, state: 'done' }, second])
    it.documents[0]?.said.push({ step: 0, place: 0, verdict: '', comment: 'Door clashes.' })
    await renderSeated(<HandInForm review={it} step={second} acts={some} />)
    expect(screen.getByText('Door clashes.')).toBeInTheDocument()
    expect(screen.queryByRole('radiogroup')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Hand in comments' }))
    expect(mutate).toHaveBeenCalledOnce()
  })

  it('waits for what was begun elsewhere, which would be lost otherwise', async () => {
    begun.mockReturnValueOnce(new Promise(() => undefined))
    const { acts: some } = acts()
    const step = { ...CHECK, id: 'waits', mine: MINE }
    await renderSeated(<HandInForm review={review([step])} step={step} acts={some} />)
    expect(screen.getByRole('button', { name: 'Hand in comments' })).toBeDead()
    expect(screen.getByText('What you have begun is not here yet.')).toBeInTheDocument()
  })

  it('begins with what was begun on another device', async () => {
    begun.mockResolvedValueOnce([{ document_id: '2', verdict: '', comment: 'Seen on the phone' }])
    const { mutate, acts: some } = acts()
    const step = { ...CHECK, id: 'elsewhere', mine: MINE }
    await renderSeated(<HandInForm review={review([step])} step={step} acts={some} />)
    expect(await screen.findByDisplayValue('Seen on the phone')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Hand in comments' }))
    const answers = [
      { document_id: '1', revision_id: 'r1', verdict: '', comment: '', grave: 'should' },
      { document_id: '2', revision_id: 'r2', verdict: '', comment: 'Seen on the phone', grave: 'should' },
    ]
    expect(mutate).toHaveBeenCalledWith(expect.objectContaining({ answers }))
  })

  it('whoever sums up begins with the gravest of what the others say', async () => {
    const { mutate, acts: some } = acts()
    const sums = { ...DECIDE, state: 'running', sums_up: true, mine: { ...MINE, answers: ['1'] } }
    const it = review([sums])
    it.documents = [{ ...document('1'), proposed: 'C' }]
    await renderSeated(<HandInForm review={it} step={sums} acts={some} />)
    await userEvent.click(screen.getByRole('button', { name: 'Hand in verdicts' }))
    const answers = [{ document_id: '1', revision_id: 'r1', verdict: 'C', comment: '', grave: 'should' }]
    expect(mutate).toHaveBeenCalledWith(expect.objectContaining({ answers }))
  })
})
