import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { onlineManager } from '@tanstack/react-query'

import { Refused } from '../api/problems'
import { renderSeated } from '../testSeat'
import { Talk } from './Talk'

const GET = vi.fn()
const POST = vi.fn()
const DELETE = vi.fn()
const put = vi.fn()
vi.mock('../api/putFile', () => ({ putFile: (...said: unknown[]) => put(...said) as unknown }))
vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...said: unknown[]) => GET(...said) as unknown,
    POST: (...said: unknown[]) => POST(...said) as unknown,
    DELETE: (...said: unknown[]) => DELETE(...said) as unknown,
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
  attachments: [] as object[],
  folds: [] as number[][],
  mail: '',
  ...more,
})
const file = (id: string, name: string) => ({
  id,
  name,
  size_bytes: 2000,
  sha256: 'a'.repeat(64),
  pages: 0,
  waiting: false,
  trouble: '',
})
const field = () => screen.findByRole('textbox', { name: 'Say something' })
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
    expect(screen.queryByRole('textbox')).toBeNull()
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

  it('folds away what a mail quotes, and gives the mail as it came', async () => {
    const text = 'It is dry.\n\n> Is it wet?\n'
    const author = { ...people[0], way: 'mail', taken_in_by: '' }
    GET.mockResolvedValue({
      said: [said(text, { author, folds: [[12, 25]], mail: 'm1' })],
      people,
      may_talk: true,
    })
    await shown()
    expect(await screen.findByText('It is dry.')).toBeVisible()
    expect(screen.getByText('by mail')).toBeVisible()
    expect(screen.queryByText('> Is it wet?')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Show what is quoted' }))
    expect(screen.getByText('> Is it wet?')).toBeVisible()
    expect(screen.getByRole('button', { name: 'the mail as it came' })).toBeVisible()
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

  it('sends files first, and says them with the words', async () => {
    put.mockRejectedValueOnce(new Refused({ code: 'no_room', status: 422 } as never))
    put.mockResolvedValue(file('f', 'Joint.pdf'))
    await shown()
    await userEvent.type(await field(), 'See')
    await userEvent.upload(screen.getByLabelText('Files to attach'), new File(['x'], 'Joint.pdf'))
    expect(await screen.findByRole('alert')).toBeVisible()
    expect(screen.getByRole('button', { name: 'Say it' })).toBeDead()
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }))
    expect(await screen.findByRole('button', { name: 'Take Joint.pdf back' })).toBeVisible()
    expect(put).toHaveBeenLastCalledWith('/api/attachments/document/d?name=Joint.pdf', expect.any(File))
    await userEvent.click(screen.getByRole('button', { name: 'Say it' }))
    const { body } = POST.mock.calls[0]?.[1] as { body: object }
    expect(body).toEqual({ text: 'See', attachments: ['f'] })
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Take Joint.pdf back' })).toBeNull())
  })

  it('keeps files that have come over a reload, until they are taken back', async () => {
    put.mockResolvedValueOnce(file('a', 'A.txt')).mockResolvedValueOnce(file('b', 'B.txt'))
    DELETE.mockResolvedValue(undefined)
    await shown()
    await field()
    await userEvent.upload(screen.getByLabelText('Files to attach'), [
      new File(['1'], 'A.txt'),
      new File(['2'], 'B.txt'),
    ])
    await screen.findByText('B.txt')
    cleanup()
    await shown()
    await field()
    expect(screen.getByText('A.txt')).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'Take A.txt back' }))
    expect(screen.queryByText('A.txt')).toBeNull()
    expect(screen.getByText('B.txt')).toBeVisible()
    expect(DELETE).toHaveBeenCalledOnce()
  })

  it('shows what came with what was said, and what is to be minded in it', async () => {
    const attachments = [{ ...file('f', 'Joint.pdf'), pages: 2, trouble: 'It has active content: scripts.' }]
    GET.mockResolvedValue({ said: [said('See', { attachments })], people, may_talk: true })
    await shown()
    const list = await screen.findByRole('list', { name: 'Attached files' })
    expect(list).toHaveTextContent('Joint.pdf 2 kB, 2 pagesIt has active content: scripts.')
    await userEvent.click(screen.getByRole('button', { name: 'Joint.pdf' }))
    const look = await screen.findByRole('dialog', { name: 'Joint.pdf' })
    expect(look.querySelectorAll('img')).toHaveLength(2)
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
