import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { useActs } from './useActs'
import { useMarks, type Mark } from './useMarks'
import { SeatContext } from '../../../api/me'
import { SEAT } from '../../../testSeat'

/** What the server has, and what it was asked for. Answers to changes wait until they are let through. */
const server = {
  marks: [] as Mark[],
  asked: [] as string[],
  held: [] as (() => void)[],
  hold: false,
  refuse: '',
}

const mark = (id: string, more: Partial<Mark> = {}) =>
  ({
    id,
    version: 1,
    points: [[0, 0]],
    rings: [],
    text: '',
    label: '',
    locked: false,
    look: {},
    ...more,
  }) as Mark

async function answered(path: string, body: Record<string, unknown>): Promise<unknown> {
  server.asked.push(`${path.replace('/api/sheets/{revision_id}/', '')} ${JSON.stringify(body)}`)
  if (server.hold) await new Promise<void>((go) => server.held.push(go))
  if (server.refuse && path.endsWith(server.refuse)) throw new Error('Somebody has answered it.')
  if (path.endsWith('/change')) return changed(body['changes'] as (Partial<Mark> & { id: string })[])
  if (path.endsWith('/remove')) {
    const gone = Object.keys(body['marks'] as object)
    server.marks = server.marks.filter(({ id }) => !gone.includes(id))
    return undefined
  }
  if (path.endsWith('/bring-back')) {
    const back = (body['marks'] as string[]).map((id) => mark(id))
    server.marks = [...server.marks, ...back]
    return back
  }
  const drawn = (body['marks'] as object[]).map((_, place) => mark(`new${server.marks.length + place}`))
  server.marks = [...server.marks, ...drawn]
  return drawn
}

function changed(changes: (Partial<Mark> & { id: string })[]): Mark[] {
  return changes.map((change) => {
    const old = server.marks.find(({ id }) => id === change.id) as Mark
    if (change.version !== old.version) throw new Error('Somebody has changed it.')
    const said = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== null))
    const now = { ...old, ...said, version: old.version + 1 }
    server.marks = server.marks.map((each) => (each.id === now.id ? now : each))
    return now
  })
}

vi.mock('../../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: () => Promise.resolve(server.marks.map((each) => ({ ...each }))),
    POST: (path: string, { body }: { body: Record<string, unknown> }) => answered(path, body),
  },
  unwrap: (answer: Promise<unknown>) => answer,
  unwrapAs: (answer: Promise<unknown>) => answer,
}))

beforeEach(() => {
  Object.assign(server, { marks: [mark('a'), mark('b')], asked: [], held: [], hold: false, refuse: '' })
})

async function opened() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <SeatContext.Provider value={SEAT}>{children}</SeatContext.Provider>
    </QueryClientProvider>
  )
  const sheet = renderHook(
    () => {
      const marks = useMarks('r1')
      return { marks, acts: useActs(marks) }
    },
    { wrapper },
  )
  const shown = () => sheet.result.current.marks.list.data ?? []
  await waitFor(() => expect(shown()).toHaveLength(2))
  return {
    shown,
    one: (id: string) => shown().find((each) => each.id === id) as Mark,
    acts: () => sheet.result.current.acts,
    again: () => client.invalidateQueries({ queryKey: ['marks', 'r1'] }),
  }
}

const letOneThrough = () =>
  act(async () => {
    server.held.shift()?.()
    await new Promise((go) => setTimeout(go, 20))
  })

describe('changes that are asked for one straight after the other', () => {
  it('never show an older state, whatever comes in between', async () => {
    const sheet = await opened()
    server.hold = true
    act(() => sheet.acts().change([{ mark: sheet.one('a'), to: { text: 'Which bearing?' } }]))
    act(() => sheet.acts().change([{ mark: sheet.one('a'), to: { locked: true } }]))
    await waitFor(() => expect(sheet.one('a')).toMatchObject({ text: 'Which bearing?', locked: true }))

    // The answer to the first knows nothing of the lock, and neither does a list that is fetched now.
    await letOneThrough()
    expect(server.marks[0]).toMatchObject({ text: 'Which bearing?', locked: false })
    expect(sheet.one('a')).toMatchObject({ text: 'Which bearing?', locked: true })
    await act(() => sheet.again())
    expect(sheet.one('a').locked).toBe(true)

    await waitFor(() => expect(server.held).toHaveLength(1))
    await letOneThrough()
    expect(server.marks[0]).toMatchObject({ text: 'Which bearing?', locked: true, version: 3 })
    expect(sheet.one('a')).toMatchObject({ locked: true, version: 3 })
  })

  it('meet the version that the one before has left', async () => {
    const sheet = await opened()
    const before = sheet.one('a')
    act(() => {
      sheet.acts().change([{ mark: before, to: { text: 'one' } }])
      sheet.acts().change([{ mark: before, to: { text: 'two' } }])
      sheet.acts().change([{ mark: before, to: { label: 'fire' } }])
    })
    await waitFor(() => expect(sheet.one('a')).toMatchObject({ text: 'two', label: 'fire', version: 4 }))
  })

  it('go on from where the one before has put it, also from a screen that was not drawn again', async () => {
    const sheet = await opened()
    server.hold = true
    const onScreen = sheet.one('a')
    const further = ({ points: [[x, y] = [0, 0]] }: Mark) => ({ points: [[x + 8, y] as [number, number]] })
    act(() => sheet.acts().change([{ mark: onScreen, to: further }]))
    await letOneThrough()
    for (const step of [2, 3, 4]) {
      act(() => sheet.acts().change([{ mark: onScreen, to: further }]))
      await waitFor(() => expect(sheet.one('a').points).toEqual([[8 * step, 0]]))
    }
    server.hold = false
    await letOneThrough()
    await waitFor(() => expect(server.marks[0]).toMatchObject({ points: [[32, 0]], version: 5 }))
    act(() => sheet.acts().undo())
    await waitFor(() => expect(server.marks[0]).toMatchObject({ points: [[24, 0]] }))
  })

  it('show what is there when one of them is refused', async () => {
    const sheet = await opened()
    server.refuse = '/change'
    act(() => sheet.acts().change([{ mark: sheet.one('a'), to: { text: 'Mine' } }]))
    await waitFor(() => expect(server.asked).toHaveLength(1))
    await waitFor(() => expect(sheet.one('a').text).toBe(''))
    expect(sheet.acts().canUndo).toBe(false)
  })
})

describe('undo', () => {
  it('takes back what was done last, and does it again', async () => {
    const sheet = await opened()
    act(() => sheet.acts().change([{ mark: sheet.one('a'), to: { text: 'Mine' } }]))
    await waitFor(() => expect(sheet.acts().canUndo).toBe(true))
    act(() => sheet.acts().undo())
    await waitFor(() => expect(sheet.one('a').text).toBe(''))
    expect(sheet.acts().canUndo).toBe(false)
    act(() => sheet.acts().redo())
    await waitFor(() => expect(sheet.one('a').text).toBe('Mine'))
    expect(sheet.acts().canRedo).toBe(false)
  })

  it('goes back along several, however fast it is pressed', async () => {
    const sheet = await opened()
    const drawn = vi.fn()
    act(() => sheet.acts().draw([{} as never], drawn))
    act(() => sheet.acts().remove([sheet.one('a')], () => undefined))
    await waitFor(() => expect(sheet.shown().map(({ id }) => id)).toEqual(['b', 'new2']))
    expect(drawn).toHaveBeenCalledOnce()
    act(() => {
      sheet.acts().undo()
      sheet.acts().undo()
      sheet.acts().undo()
    })
    await waitFor(() => expect(sheet.shown().map(({ id }) => id)).toEqual(['b', 'a']))
    expect(sheet.acts().canUndo).toBe(false)
    expect(sheet.acts().canRedo).toBe(true)
  })

  it('meets what others did meanwhile: their change stays, and mine goes', async () => {
    const sheet = await opened()
    act(() => sheet.acts().change([{ mark: sheet.one('a'), to: { text: 'Mine' } }]))
    await waitFor(() => expect(sheet.acts().canUndo).toBe(true))
    server.marks = server.marks.map((each) =>
      each.id === 'b' ? { ...each, text: 'Theirs', version: 9 } : { ...each, version: 7 },
    )
    act(() => sheet.acts().undo())
    await waitFor(() => expect(server.marks[0]).toMatchObject({ text: '', version: 8 }))
    expect(server.marks[1]).toMatchObject({ text: 'Theirs', version: 9 })
  })

  it('tells what cannot be taken back any more, and goes on before it', async () => {
    const sheet = await opened()
    act(() => sheet.acts().change([{ mark: sheet.one('b'), to: { text: 'first' } }]))
    act(() => sheet.acts().draw([{} as never], () => undefined))
    await waitFor(() => expect(sheet.shown()).toHaveLength(3))
    server.refuse = '/remove'
    act(() => sheet.acts().undo())
    await waitFor(() => expect(sheet.acts().trouble).toBeTruthy())
    server.refuse = ''
    act(() => sheet.acts().undo())
    await waitFor(() => expect(sheet.one('b').text).toBe(''))
    expect(sheet.acts().trouble).toBeNull()
  })

  it('is nothing where nothing was done', async () => {
    const sheet = await opened()
    act(() => sheet.acts().undo())
    act(() => sheet.acts().redo())
    await act(() => sheet.again())
    expect(server.asked).toEqual([])
  })
})
