import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../testSeat'
import { DateField } from './DateField'
import { forgetPage } from './drafts'
import { useField, useKept } from './useKept'

vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: () =>
      Promise.resolve({
        working_weekdays: [0, 1, 2, 3, 4],
        holidays: [{ on: '2027-03-26', name: 'Good Friday' }],
      }),
  },
  unwrap: (answer: Promise<unknown>) => answer,
}))

const sent = vi.fn()

function Form({ first = '' }: { first?: string }) {
  const form = useKept('send', 'r1')
  const [day, setDay] = useField(form, 'wanted', first)
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        sent(day)
      }}
    >
      <DateField keep={form} label="Wanted by" value={day} onChange={setDay} />
      <button type="submit">Send</button>
    </form>
  )
}

function Passing() {
  const [day, setDay] = useState('2027-03-09')
  return <DateField keep="passing" label="From" value={day} onChange={setDay} />
}

const field = () => screen.getByLabelText('Wanted by', { exact: true })

beforeEach(() => sent.mockClear())

describe('the field for dates', () => {
  it('takes a day as it is said, says which is meant, and writes it out', async () => {
    await renderSeated(<Form />)
    await userEvent.type(field(), '26.3.')
    expect(await screen.findByText('Fri 26 Mar 2027, Good Friday')).toBeInTheDocument()
    await userEvent.tab()
    expect(field()).toHaveValue('26 Mar 2027')
    await userEvent.click(screen.getByRole('button', { name: 'Send' }))
    expect(sent).toHaveBeenCalledWith('2027-03-26')
  })

  it('says what is no day, keeps it, and lets nothing be sent with it', async () => {
    await renderSeated(<Form first="2027-03-12" />)
    // Over what is there, letter by letter: the day before stands until there is another.
    await userEvent.type(field(), '31.4.', { initialSelectionStart: 0, initialSelectionEnd: 11 })
    expect(field()).toHaveAttribute('aria-invalid', 'true')
    expect(screen.getByText(/Not a date/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Send' }))
    expect(sent).not.toHaveBeenCalled()
    expect(field()).toHaveValue('31.4.')
    await userEvent.clear(field())
    await userEvent.click(screen.getByRole('button', { name: 'Send' }))
    expect(sent).toHaveBeenCalledExactlyOnceWith('')
  })

  it('keeps half a date over a page that is loaded anew', async () => {
    await renderSeated(<Form />)
    await userEvent.type(field(), '14 m')
    forgetPage()
    expect(field()).toHaveValue('14 m')
  })

  it('counts five working days on, and goes by arrow keys', async () => {
    await renderSeated(<Passing />)
    const from = screen.getByLabelText('From', { exact: true })
    await userEvent.type(from, '{ArrowUp}{ArrowUp}{PageUp}')
    expect(from).toHaveValue('11 Apr 2027')
    await userEvent.clear(from)
    await userEvent.type(from, '+13')
    await userEvent.tab()
    // Good Friday is not worked.
    await screen.findByDisplayValue('29 Mar 2027')
  })

  it('is chosen from a month by the keyboard', async () => {
    await renderSeated(<Passing />)
    await userEvent.click(screen.getByRole('button', { name: 'Calendar for From' }))
    expect(screen.getByRole('button', { name: 'Tue 9 Mar 2027' })).toHaveFocus()
    expect(screen.getByRole('button', { name: 'Fri 26 Mar 2027, Good Friday' })).toHaveAttribute(
      'title',
      'Good Friday',
    )
    await userEvent.keyboard('{ArrowDown}{ArrowRight}{PageDown}')
    expect(screen.getByText('April 2027')).toBeInTheDocument()
    await userEvent.keyboard('{Enter}')
    expect(screen.getByLabelText('From', { exact: true })).toHaveValue('17 Apr 2027')
  })
})
