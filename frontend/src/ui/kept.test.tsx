import { act, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { SeatContext } from '../api/me'
import { Refused } from '../api/problems'
import { SEAT } from '../testSeat'
import { draftsOf, forgetPage, keepDraft, onLeft } from './drafts'
import { Input } from './Input'
import { sendOnce, useField, useKept, type Kept } from './useKept'

let form: Kept

function Form({ of = 'r1', initial = '', hold = false }: { of?: string; initial?: string; hold?: boolean }) {
  // The test holds what the form holds.
  // eslint-disable-next-line react-hooks/globals
  form = useKept('hand-in', of, 'RV-0001')
  const [note, setNote] = useField(form, 'note', initial, hold)
  return (
    <Input keep={form} aria-label="Note" value={note} onChange={(event) => setNote(event.target.value)} />
  )
}

function seated(person: string, of?: string, initial?: string, hold?: boolean) {
  const me = { ...SEAT.me, person: { ...SEAT.me.person, id: person } }
  return (
    <SeatContext.Provider value={{ ...SEAT, me }}>
      <Form
        {...(of ? { of } : {})}
        {...(initial === undefined ? {} : { initial })}
        {...(hold ? { hold } : {})}
      />
    </SeatContext.Provider>
  )
}

const field = () => screen.getByLabelText('Note')

describe('what is typed', () => {
  it('is there again when the form is opened anew, also after the page was loaded anew', async () => {
    const { unmount } = render(seated('marit'))
    await userEvent.type(field(), 'Truss too low')
    unmount()
    forgetPage()
    render(seated('marit'))
    expect(field()).toHaveValue('Truss too low')
  })

  it('belongs to its person and its thing', async () => {
    const { rerender } = render(seated('marit'))
    await userEvent.type(field(), 'Mine')
    rerender(seated('junpei'))
    expect(field()).toHaveValue('')
    rerender(seated('marit', 'r2'))
    expect(field()).toHaveValue('')
    rerender(seated('marit'))
    expect(field()).toHaveValue('Mine')
    expect(draftsOf('junpei')).toEqual([])
    expect(draftsOf('marit')).toHaveLength(1)
  })

  it('is no draft where it is as it was, or has become what is there', async () => {
    const { rerender } = render(seated('marit', 'r1', 'Old'))
    await userEvent.type(field(), '!')
    expect(draftsOf('marit')).toHaveLength(1)
    await userEvent.type(field(), '{Backspace}')
    expect(draftsOf('marit')).toHaveLength(0)
    await userEvent.type(field(), ' and new')
    rerender(seated('marit', 'r1', 'Old and new', true))
    expect(draftsOf('marit')).toHaveLength(1)
    rerender(seated('marit', 'r1', 'Old and new'))
    expect(draftsOf('marit')).toHaveLength(0)
  })

  it('outlives a browser that keeps nothing', async () => {
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    const { unmount } = render(seated('marit'))
    await userEvent.type(field(), 'Still here')
    unmount()
    render(seated('marit'))
    expect(field()).toHaveValue('Still here')
    full.mockRestore()
  })

  it('is told of when it is left', async () => {
    const left = vi.fn()
    const deaf = onLeft(left)
    const { unmount } = render(seated('marit'))
    await userEvent.type(field(), 'x')
    unmount()
    await new Promise((done) => setTimeout(done))
    expect(left).toHaveBeenCalledExactlyOnceWith(
      expect.objectContaining({
        draft: expect.objectContaining({ words: 'RV-0001', fields: { note: 'x' } }) as object,
      }),
    )
    deaf()
  })

  it('is forgotten after a month', async () => {
    const { unmount } = render(seated('marit'))
    await userEvent.type(field(), 'x')
    unmount()
    const [draft] = draftsOf('marit')
    if (!draft) throw new Error('no draft')
    keepDraft(draft.key, { ...draft.draft, at: Date.now() - 31 * 24 * 3600 * 1000 })
    forgetPage()
    expect(draftsOf('marit')).toEqual([])
  })
})

describe('sending', () => {
  const keys: string[] = []
  const send = (answer: Promise<string>) => (more: { headers: { 'Idempotency-Key': string } }) => {
    keys.push(more.headers['Idempotency-Key'])
    return answer
  }

  it('has the same key until it is through, and drops what was sent', async () => {
    keys.length = 0
    render(seated('marit'))
    await userEvent.type(field(), 'x')
    const offline = new Refused({ code: 'offline', detail: '', status: 0, title: '', type: '', about: '' })
    await act(() => sendOnce(form, send(Promise.reject(offline))).catch(() => undefined))
    expect(field()).toHaveValue('x')
    await act(() => sendOnce(form, send(Promise.resolve('done'))))
    expect(field()).toHaveValue('')
    await act(() => sendOnce(form, send(Promise.resolve('another'))))
    expect(keys[0]).toBe(keys[1])
    expect(keys[2]).not.toBe(keys[1])
    expect(keys[0]).toMatch(/^[0-9a-f]{32}$/)
  })

  it('keeps what was typed after the press', async () => {
    render(seated('marit'))
    await userEvent.type(field(), 'first')
    let answer: (text: string) => void = () => undefined
    const sent = sendOnce(form, send(new Promise<string>((done) => (answer = done))))
    await userEvent.type(field(), ' and second')
    answer('done')
    await act(() => sent)
    expect(field()).toHaveValue('first and second')
  })

  it('means another act once somebody has read that it was done', async () => {
    keys.length = 0
    render(seated('marit'))
    const done = new Refused({
      code: 'done_otherwise',
      detail: 'Done',
      status: 422,
      title: '',
      type: '',
      about: '',
    })
    await act(() => sendOnce(form, send(Promise.reject(done))).catch(() => undefined))
    await act(() => sendOnce(form, send(Promise.resolve('again'))))
    expect(keys[0]).not.toBe(keys[1])
  })
})
