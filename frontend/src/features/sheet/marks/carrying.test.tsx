import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../../testSeat'
import { CarryForward } from './CarryForward'
import type { Mark } from './useMarks'

const GET = vi.fn()
const POST = vi.fn()
vi.mock('../../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...asked: unknown[]) => GET(...asked) as unknown,
    POST: (...asked: unknown[]) => POST(...asked) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))

beforeEach(() => {
  vi.clearAllMocks()
})

const mark = (text: string, more: Partial<Mark> = {}) =>
  ({
    id: text,
    text,
    label: '',
    kind: 'pin',
    state: 'open',
    discipline: '',
    pin_number: null,
    meant_for: null,
    replies: [],
    look: { colour: 'red', symbol: '' },
    author: { id: 'leilani', name: 'Leilani Brandt', company: 'PLS' },
    ...more,
  }) as unknown as Mark

describe('carrying forward', () => {
  const found = (...touched: boolean[]) => ({
    from_revision: 'P01',
    pages_gone: 0,
    marks: touched.map((each, place) => ({ mark: mark(`mark ${place}`), touched: each })),
  })
  const opened = async () => {
    await renderSeated(<CarryForward revisionId="r2" inks={{ red: '#f00' }} />)
    await userEvent.click(await screen.findByRole('button', { name: /can come along/ }))
  }
  const sent = () => POST.mock.calls.map((call) => (call[1] as { body: { marks: string[] } }).body.marks)

  it('is offered one by one, with what happened to the drawing under each', async () => {
    GET.mockResolvedValue(found(true, false))
    POST.mockResolvedValue([])
    await opened()
    expect(screen.getByText('△ touched')).toBeInTheDocument()
    expect(screen.getByText(/the drawing there is as it was/)).toBeInTheDocument()
    await userEvent.click(screen.getAllByRole('button', { name: 'Carry' })[1] as HTMLElement)
    await waitFor(() => expect(sent()).toEqual([['mark 1']]))
  })

  it('takes all, or only those that nothing has touched', async () => {
    GET.mockResolvedValue(found(true, false, false))
    POST.mockResolvedValue([])
    await opened()
    await userEvent.click(screen.getByRole('button', { name: 'Only the 2 untouched' }))
    await waitFor(() => expect(sent()).toEqual([['mark 1', 'mark 2']]))
    await userEvent.click(screen.getByRole('button', { name: 'Carry all 3' }))
    await waitFor(() => expect(sent()).toHaveLength(2))
    expect(sent()[1]).toEqual(['mark 0', 'mark 1', 'mark 2'])
  })

  it('does not offer a choice that is none', async () => {
    GET.mockResolvedValue(found(false, false))
    await opened()
    expect(screen.getByRole('button', { name: 'Carry all 2' })).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /untouched$/ })).toBeNull()
  })

  it('is not there when nothing is open before, and tells of pages that are gone', async () => {
    GET.mockResolvedValue(found())
    await renderSeated(<CarryForward revisionId="r2" inks={{}} />)
    await waitFor(() => expect(GET).toHaveBeenCalled())
    expect(screen.queryByRole('region', { name: 'Carry forward' })).toBeNull()
    GET.mockResolvedValue({ ...found(), pages_gone: 1 })
    await renderSeated(<CarryForward revisionId="r3" inks={{}} />)
    expect(await screen.findByText(/1 lies on pages that this revision/)).toBeInTheDocument()
  })
})
