import { QueryClient } from '@tanstack/react-query'
import { render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { Schemas } from '../../api/client'
import { takeOpening } from '../../api/takeOpening'
import { renderSeated, SEAT } from '../../testSeat'
import { askOpening, endFirstLook, takeFirstLook } from '../../api/firstLook'
import { disciplinesOf } from './marks/disciplines'
import { FindOnSheet } from './FindOnSheet'
import { choicesOf, fits, NO_FILTER } from './marks/markFilter'
import { MarkFiles } from './marks/MarkFiles'
import { wholePage } from './sheetQuery'
import type { Mark } from './marks/useMarks'
import { rollFrom } from './marks/usePens'
import type { Way } from './useWays'
import { WayShapes } from './WayShapes'

const GET = vi.fn()
const downloads = vi.fn()

vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { GET: (...asked: unknown[]) => GET(...asked) as unknown },
  unwrapAs: (answer: Promise<unknown>) => answer,
}))
vi.mock('../../api/download', () => ({ download: (address: string) => downloads(address) as unknown }))

beforeEach(() => {
  vi.clearAllMocks()
  GET.mockResolvedValue({ hits: [], more: false, has_words: true })
})

function mark(more: Partial<Mark>): Mark {
  const author = {
    id: 'leilani',
    name: 'Leilani Brandt',
    company: 'PLS',
    job: '',
    way: 'person',
    taken_in_by: '',
  } as const
  return {
    id: 'a', version: 1, page: 0, kind: 'cloud', points: [], rings: [], look: {}, text: 'Column moved?', label: 'grid',
    discipline: 'S', measured: null, pin_number: null, state: 'open', author, meant_for: null,
    locked: false, rank: 0, mine: true, may_change: true, drawn_at: '', inked_at: null, replies: [], first_place: null, sound: true,
    touched: null, links: [], ...more,
  } as Mark // prettier-ignore
}

describe('the filter of marks', () => {
  it('holds every part of it', () => {
    const one = mark({})
    expect(fits(one, NO_FILTER)).toBe(true)
    for (const part of [
      { discipline: 'S' },
      { label: 'grid' },
      { company: 'PLS' },
      { author: 'leilani' },
      { state: 'open' },
      { words: 'MOVED brandt' },
    ])
      expect(fits(one, { ...NO_FILTER, ...part })).toBe(true)
    for (const part of [
      { discipline: 'A' },
      { label: 'door' },
      { company: 'TRA' },
      { author: 'anouk' },
      { state: 'done' },
      { words: 'moved door' },
    ])
      expect(fits(one, { ...NO_FILTER, ...part })).toBe(false)
    expect(fits(one, { ...NO_FILTER, discipline: 'S', state: 'done' })).toBe(false)
  })

  it('offers each thing once, and nothing that is empty', () => {
    const marks = [mark({}), mark({ discipline: 'A' }), mark({ discipline: '' }), mark({})]
    const offered = choicesOf(marks, ({ discipline }) => ({ code: discipline, words: discipline }))
    expect(offered.map((each) => each.code)).toEqual(['A', 'S'])
    expect(disciplinesOf(SEAT.project)).toEqual([
      { code: '', words: 'none' },
      { code: 'A', words: 'A, Architecture' },
    ])
  })
})

describe('ways from a sheet', () => {
  const go = vi.fn()
  const way = (words: string, at = 0): Way => ({ box: [at, 0, at + 10, 5], words, go: () => void go(words) })

  it('are listed once each until something is typed, and followed from the keyboard', async () => {
    const ways = [way('Page 2'), way('https://a.example'), way('Page 2', 50)]
    await renderSeated(
      <FindOnSheet revisionId="r" ways={ways} onShow={() => undefined} onClose={() => undefined} />,
    )
    const buttons = screen.getAllByRole('button').filter((each) => each.title && each.closest('li'))
    expect(buttons.map((each) => each.textContent)).toEqual(['Page 2', 'https://a.example'])
    buttons[1]?.focus()
    await userEvent.keyboard('{Enter}')
    expect(go).toHaveBeenCalledExactlyOnceWith('https://a.example')
    await userEvent.type(screen.getByLabelText('Words on the sheet'), 'do')
    expect(screen.queryByText('This page leads to')).toBeNull()
    expect(await screen.findByText('The sheet does not say that.')).toBeInTheDocument()
  })

  it('say nothing where there are none', async () => {
    await renderSeated(
      <FindOnSheet revisionId="r" ways={[]} onShow={() => undefined} onClose={() => undefined} />,
    )
    expect(screen.queryByText('This page leads to')).toBeNull()
  })

  it('lie on the sheet where the file has them', async () => {
    const { container } = render(
      <svg>
        <WayShapes ways={[way('Page 2', 40)]} toView={[1, 0, 0, -1, 0, 100]} />
      </svg>,
    )
    const box = container.querySelector('rect')
    expect(['x', 'y', 'width', 'height'].map((name) => Number(box?.getAttribute(name)))).toEqual([
      39, 94, 12, 7,
    ])
    await userEvent.click(container.querySelector('[data-way]') as Element)
    expect(go).toHaveBeenCalledExactlyOnceWith('Page 2')
  })
})

describe('files that marks came from', () => {
  const file = {
    id: 'f1',
    name: 'comments of the harbour.pdf',
    size_bytes: 2_400_000,
    sha256: 'a'.repeat(64),
    told: ['1 sound is no mark'],
    taken_by: SEAT.me.person,
    taken_at: '2027-03-08T10:00:00Z',
  }

  it('tell who took them in and what is no mark, and are had again', async () => {
    GET.mockResolvedValue({ files: [file] })
    await renderSeated(<MarkFiles revisionId="r1" open onClose={() => undefined} />)
    const line = await screen.findByRole('listitem')
    expect(line).toHaveTextContent('comments of the harbour.pdf')
    expect(line).toHaveTextContent('Marit Osei HBC')
    expect(line).toHaveTextContent('△ 1 sound is no mark.')
    await userEvent.click(within(line).getByRole('button', { name: 'Download' }))
    expect(downloads).toHaveBeenCalledExactlyOnceWith('/api/sheets/r1/mark-files/f1/download')
  })

  it('say that there are none', async () => {
    GET.mockResolvedValue({ files: [] })
    await renderSeated(<MarkFiles revisionId="r1" open onClose={() => undefined} />)
    expect(await screen.findByText('No marks were taken in from a file yet.')).toBeInTheDocument()
  })

  it('are asked for only when they are looked at', async () => {
    await renderSeated(<MarkFiles revisionId="r1" open={false} onClose={() => undefined} />)
    expect(GET).not.toHaveBeenCalled()
  })
})

describe('the next sheet of the list', () => {
  it('is seen by its whole first page', () => {
    const sheet = { revision_id: 'r9', whole_level: 10, pages: [{ width_pt: 2384, height_pt: 1684 }] }
    expect(wholePage(sheet as Schemas['Sheet'])).toBe('/api/sheets/r9/tiles/0/10')
    expect(wholePage({ ...sheet, pages: [] } as unknown as Schemas['Sheet'])).toBe('')
  })
})

describe('the picture that a page brings along', () => {
  it('is taken over by a view and goes when that is as sharp', () => {
    document.body.innerHTML = '<div id="first-look"><img alt=""></div><div id="view"></div>'
    const view = document.getElementById('view') as HTMLElement
    takeFirstLook(view)
    expect(view.querySelector('#first-look img')).not.toBeNull()
    endFirstLook()
    expect(document.getElementById('first-look')).toBeNull()
    takeFirstLook(view)
    endFirstLook()
    expect(view.childElementCount).toBe(0)
  })
})

describe('what the page of a sheet asks for first', () => {
  const answered = (answer: Response | Error) =>
    vi.stubGlobal(
      'fetch',
      vi.fn(() => (answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer))),
    )
  afterEach(() => vi.unstubAllGlobals())

  it('is asked for ahead, and taken once', async () => {
    const told = { me: SEAT.me, sheet: { revision_id: 'r9', title: 'Quay' } }
    answered(Response.json(told))
    askOpening('r9')
    expect(fetch).toHaveBeenCalledWith('/api/sheets/r9/opening')
    const [client, other] = [new QueryClient(), new QueryClient()]
    await takeOpening(client)
    expect(client.getQueryData(['me'])).toEqual(SEAT.me)
    expect(client.getQueryData(['sheet', 'r9'])).toEqual(told.sheet)
    await takeOpening(other)
    expect(other.getQueryData(['me'])).toBeUndefined()
  })

  it('is left to the page itself where it was refused or did not come', async () => {
    for (const answer of [Response.json({ code: 'not_found' }, { status: 404 }), new TypeError('no line')]) {
      answered(answer)
      askOpening('r9')
      const client = new QueryClient()
      await takeOpening(client)
      expect(client.getQueryData(['me'])).toBeUndefined()
    }
  })
})

describe('a roll out of a file', () => {
  it('is its pens, and nothing else is a roll', () => {
    expect(rollFrom('{"pens":[{"name":"Cloud","kind":"cloud"}]}')).toEqual([{ name: 'Cloud', kind: 'cloud' }])
    for (const odd of ['{}', '[]', 'null', '{"pens":1}', 'no json']) expect(() => rollFrom(odd)).toThrow()
  })
})
