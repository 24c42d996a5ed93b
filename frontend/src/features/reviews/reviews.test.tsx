import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { HandInForm } from './HandInForm'
import { Slip } from './Slip'
import type { Review, SlipStep, useReviewActs } from './useReviews'

const LEILANI = { id: 'l', name: 'Leilani Brandt', company: 'PLS', job: 'engineer' }
const ANOUK = { id: 'a', name: 'Anouk Ferreira', company: 'BHT', job: 'engineer' }
const SAOIRSE = { id: 's', name: 'Saoirse Tanaka', company: 'TRA', job: 'design lead' }

const CHECK: SlipStep = {
  name: 'Check',
  act: 'comment',
  state: 'running',
  people: [LEILANI, ANOUK],
  taken_by: null,
  stamp: '',
  began_at: '2027-03-04T10:00:00Z',
  taken_at: null,
  due_on: '2027-03-05',
  planned_on: '2027-03-09',
  ended_at: null,
  days: 3,
  counting: 'working',
  days_late: 2,
  note: '',
  answers: [],
}

const DECIDE: SlipStep = { ...CHECK, name: 'Decide', act: 'decide', state: 'waiting', people: [SAOIRSE], planned_on: '2027-03-12', days_late: 0 } // prettier-ignore

const VERDICTS = [
  { code: 'A', words: 'proceed', meaning: 'go', may_be_used: true, needs_new_revision: false },
  { code: 'C', words: 'revise and resubmit', meaning: 'stop', may_be_used: false, needs_new_revision: true },
]

function document(id: string) {
  return { document_id: id, revision_id: `r${id}`, number: `BFT-${id}`, title: `Sheet ${id}`, revision: 'P01', current_revision: 'P01', verdict: '' } // prettier-ignore
}

function review(slip: SlipStep[]): Review {
  return {
    id: 'rv', project_id: 'bft', number: 'RV-0003', name: 'Boarding bridge', message: '', route_name: 'Check and decide',
    state: 'running', version: 4, started_by: LEILANI, started_at: '2027-03-02T10:00:00Z', ended_at: null,
    why_cancelled: '', forecast_end_on: '2027-03-12', verdict_set: VERDICTS, slip, documents: [document('1'), document('2')],
    transmittals: [], my_part: { may_pick_up: false, may_put_down: false, may_hand_in: true, may_cancel: false, may_send: false },
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
    expect(screen.getAllByRole('listitem')[1]).toHaveTextContent('Saoirse Tanaka (TRA), expected by 12 Mar')
  })

  it('names who has picked it up', async () => {
    await renderSeated(
      <Slip review={review([{ ...CHECK, taken_by: ANOUK, taken_at: '2027-03-08T16:05:00Z' }])} />,
    )
    expect(item(0).getByText('Anouk Ferreira')).toBeInTheDocument()
    expect(item(0).getByText('8 Mar, 16:05')).toBeInTheDocument()
    expect(item(0).queryByText('nobody has picked it up')).toBeNull()
  })

  it('is stamped with the gravest verdict, the day and the initials', async () => {
    const answers = ['A', 'C'].map((verdict, place) => ({ document_id: String(place), verdict, comment: '' }))
    const done = {
      ...DECIDE,
      state: 'done',
      taken_by: SAOIRSE,
      stamp: 'ST',
      ended_at: '2027-03-08T23:30:00Z',
      answers,
    }
    await renderSeated(<Slip review={review([done])} />)
    expect(item(0).getByText('A C')).toBeInTheDocument()
    expect(item(0).getByText('8 Mar ST')).toBeInTheDocument()
  })
})

describe('handing in', () => {
  function acts() {
    const mutate = vi.fn()
    return { mutate, acts: { handIn: { mutate, isPending: false, error: null } } as unknown as ReturnType<typeof useReviewActs> } // prettier-ignore
  }

  it('needs a verdict on each document', async () => {
    const { mutate, acts: some } = acts()
    await renderSeated(<HandInForm review={review([{ ...DECIDE, state: 'running' }])} acts={some} />)
    const button = screen.getByRole('button', { name: 'Hand in verdicts' })
    expect(button).toBeDead()
    expect(screen.getByText('2 without a verdict yet')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'A proceed for all' }))
    const second = screen.getByRole('radiogroup', { name: 'Verdict on BFT-2' })
    await userEvent.click(within(second).getByText('revise and resubmit'))
    await userEvent.type(screen.getByLabelText('Comment on BFT-2'), 'Truss is too low.')
    await userEvent.click(button)
    const answers = [
      { document_id: '1', verdict: 'A', comment: '' },
      { document_id: '2', verdict: 'C', comment: 'Truss is too low.' },
    ]
    expect(mutate).toHaveBeenCalledWith(expect.objectContaining({ note: '', answers }))
  })

  it('asks no verdict of a step that comments, and shows what was said before', async () => {
    const said = {
      ...CHECK,
      state: 'done',
      answers: [{ document_id: '1', verdict: '', comment: 'Door clashes.' }],
    }
    const { mutate, acts: some } = acts()
    await renderSeated(<HandInForm review={review([said, { ...CHECK, name: 'Second check' }])} acts={some} />)
    expect(screen.getByText('Door clashes.')).toBeInTheDocument()
    expect(screen.queryByRole('radiogroup')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Hand in comments' }))
    expect(mutate).toHaveBeenCalledOnce()
  })
})
