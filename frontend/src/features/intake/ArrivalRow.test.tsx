import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { ArrivalRow } from './ArrivalRow'
import type { Arrival } from './useIntake'

const STOPPED: Arrival = {
  id: 'x',
  version: 1,
  file_name: 'BFT-TRA-Z1-01-D-X-0191_P01_S3_Stairs.pdf',
  sha256: '',
  size_bytes: 15_300,
  number: 'BFT-TRA-Z1-01-D-X-0191',
  revision: 'P01',
  status: 'S3',
  title: 'Stairs',
  state: 'held',
  reason: '',
  held_at: '2027-03-09T08:00:00Z',
  looking: false,
  page_count: 2,
  sheet_size: 'A3',
  weight: 'stop',
  findings: [
    {
      weight: 'stop',
      code: 'number_breaks_convention',
      words: 'Field discipline is “X”.',
      field: 'number',
      mend: 'BFT-TRA-Z1-01-D-A-0191',
    },
    { weight: 'look', code: 'status_missing', words: 'No status.', field: 'status', mend: 'S0' },
  ],
}

async function show(arrival: Arrival) {
  const onCorrect = vi.fn()
  const onDiscard = vi.fn()
  await renderSeated(
    <table>
      <tbody>
        <ArrivalRow arrival={arrival} onCorrect={onCorrect} onDiscard={onDiscard} />
      </tbody>
    </table>,
  )
  return { onCorrect, onDiscard }
}

describe('a file in Intake', () => {
  it('shows its findings, marks the faulty field and says since when it is held', async () => {
    await show(STOPPED)
    expect(screen.getByText('Stop')).toBeInTheDocument()
    expect(screen.getByText('Field discipline is “X”.')).toBeInTheDocument()
    expect(screen.getByLabelText(/^Number of/)).toBeInvalid()
    expect(screen.getByLabelText(/^Title of/)).toBeValid()
    expect(screen.getByText(/15 kB, 2 pages, A3/)).toHaveTextContent('held since 9 Mar, 08:00')
  })

  it('offers the mend of what stops it, and takes it with one click', async () => {
    const { onCorrect } = await show(STOPPED)
    await userEvent.click(screen.getByRole('button', { name: 'Take BFT-TRA-Z1-01-D-A-0191' }))
    expect(onCorrect).toHaveBeenCalledWith('number', 'BFT-TRA-Z1-01-D-A-0191')
    expect(screen.queryByRole('button', { name: 'Take S0' })).toBeNull()
  })

  it('is corrected in place: Enter keeps, Esc takes back, the same again changes nothing', async () => {
    const { onCorrect } = await show(STOPPED)
    const title = screen.getByLabelText(/^Title of/)
    await userEvent.type(title, ' and lift{Enter}')
    expect(onCorrect).toHaveBeenCalledExactlyOnceWith('title', 'Stairs and lift')
    await userEvent.clear(title)
    await userEvent.type(title, 'Something else{Escape}')
    expect(title).toHaveValue('Stairs')
    await userEvent.tab()
    expect(onCorrect).toHaveBeenCalledOnce()
  })

  it('says while it is being looked into', async () => {
    await show({ ...STOPPED, looking: true })
    expect(screen.getByText('Looking …')).toBeInTheDocument()
    expect(screen.queryByText('Stop')).toBeNull()
  })
})
