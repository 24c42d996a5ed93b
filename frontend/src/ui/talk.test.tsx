import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { onlineManager } from '@tanstack/react-query'

import { renderSeated } from '../testSeat'
import { Talk } from './Talk'

const GET = vi.fn()
const POST = vi.fn()
vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...said: unknown[]) => GET(...said) as unknown,
    POST: (...said: unknown[]) => POST(...said) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
}))

const people = [
  { id: 'a', name: 'Anouk Ferreira', company: 'BHT', job: '' },
  { id: 'l', name: 'Leilani Brandt', company: 'PLS', job: '' },
]
const said = (text: string, more: object = {}) => ({
  id: text,
  author: { ...people[0], way: 'person', taken_in_by: '' },
  text,
  at: '2027-03-09T08:30:00Z',
  said_on: 'P01',
  ...more,
})
const field = () => screen.findByRole('combobox', { name: 'Say something' })
const shown = () => renderSeated(<Talk kind="document" target="d" words="this document" revision="P02" />)

beforeEach(() => {
  vi.clearAllMocks()
  sessionStorage.clear()
  onlineManager.setOnline(true)
  GET.mockResolvedValue({ said: [], people, may_talk: true })
  POST.mockResolvedValue({ said: [said('Done')], people, may_talk: true })
})

describe('talk', () => {
  it('says who said what by which way, and on which revision if it is another', async () => {
    const guest = { id: '', name: 'Ann', company: 'HBC', job: '', way: 'mail', taken_in_by: '' }
    GET.mockResolvedValue({
      said: [said('On the old one'), said('On this one', { said_on: 'P02', author: guest })],
      people,
      may_talk: false,
    })
    await shown()
    const log = await screen.findByRole('log')
    expect(log).toHaveTextContent(/Anouk Ferreira BHT · 9 Mar, \d\d:30 · on P01On the old one/)
    expect(log).toHaveTextContent(/Ann HBC by mail · 9 Mar, \d\d:30On this one/)
    expect(screen.getByText(/not write here/)).toBeVisible()
    expect(screen.queryByRole('combobox')).toBeNull()
  })

  it('offers names after an @, and puts the one chosen in', async () => {
    await shown()
    await userEvent.type(await field(), 'Ask @bra')
    expect(screen.getByRole('option')).toHaveTextContent('Leilani Brandt')
    await userEvent.keyboard('{Enter}')
    expect(await field()).toHaveValue('Ask @Leilani Brandt ')
    await waitFor(() => expect(screen.queryByRole('option')).toBeNull())
    await userEvent.type(await field(), '@')
    expect(screen.getAllByRole('option')).toHaveLength(2)
    await userEvent.keyboard('{Escape}')
    expect(screen.queryByRole('option')).toBeNull()
  })

  it('keeps what is refused, and empties the field when it is said', async () => {
    POST.mockRejectedValueOnce(new Error('no'))
    await shown()
    await userEvent.type(await field(), 'Half a thought')
    await userEvent.click(screen.getByRole('button', { name: 'Say it' }))
    expect(await screen.findByRole('alert')).toBeVisible()
    expect(await field()).toHaveValue('Half a thought')
    await userEvent.click(screen.getByRole('button', { name: 'Say it' }))
    expect(await screen.findByText('Done')).toBeVisible()
    expect(await field()).toHaveValue('')
  })

  it('is there again when one comes back', async () => {
    await shown()
    await userEvent.type(await field(), 'Half')
    cleanup()
    await shown()
    expect(await field()).toHaveValue('Half')
  })

  it('waits for the line, and says so', async () => {
    await shown()
    await userEvent.type(await field(), 'Later')
    onlineManager.setOnline(false)
    await userEvent.keyboard('{Control>}{Enter}{/Control}')
    expect(await screen.findByText(/sent when the line is back/)).toBeVisible()
    expect(POST).not.toHaveBeenCalled()
    // The reading that the line's return brings about.
    GET.mockResolvedValue({ said: [said('Done')], people, may_talk: true })
    onlineManager.setOnline(true)
    expect(await screen.findByText('Done')).toBeVisible()
    expect(POST).toHaveBeenCalledOnce()
  })
})
