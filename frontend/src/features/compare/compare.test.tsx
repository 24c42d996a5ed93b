import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { pairsText, readAsked } from './asked'
import { RegionList } from './RegionList'
import { useClouds } from './useClouds'
import { tilesOf, type LaidOver, type Region } from './useLaidOver'
import { usePicking } from './usePicking'

const POST = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { POST: (...asked: unknown[]) => POST(...asked) as unknown },
  unwrapAs: (answer: Promise<unknown>) => answer,
}))

const region = (left: number, more: Partial<Region> = {}): Region => ({
  box: [left, 10, left + 36, 41],
  width_mm: 12.7,
  height_mm: 10.9,
  clouded: false,
  ...more,
})

/** An A1 sheet over its revision before, seen as it lies in the file but for the y axis. */
const laid = (regions: Region[], more: Partial<LaidOver> = {}) =>
  ({
    before: { revision_id: 'r1', number: 'BFT-1', revision: 'P01' },
    after: {
      revision_id: 'r2',
      number: 'BFT-1',
      revision: 'P02',
      tile_px: 512,
      first_level: 8,
      top_level: 14,
      pages: [{ width_pt: 2384, height_pt: 1684, width_mm: 841, to_view: [1, 0, 0, -1, 0, 1684] }],
    },
    before_page: 0,
    after_page: 0,
    moved: [1, 0, 0, 1, 6, -4],
    regions,
    too_many: false,
    ...more,
  }) as unknown as LaidOver

const scrolled = vi.fn()

beforeEach(() => {
  vi.clearAllMocks()
  Element.prototype.scrollIntoView = scrolled
})

describe('the address of a comparison', () => {
  it('holds what differs from the usual, and nothing that it cannot mean', () => {
    expect(readAsked({})).toEqual({})
    expect(readAsked({ before_page: 2, after_page: -1, shown: 'slider', apart: true })).toEqual({
      before_page: 2,
      shown: 'slider',
      apart: true,
    })
    expect(readAsked({ before_page: '2', places: 7, with_block: 'yes', shown: 'overlay' })).toEqual({})
    expect(readAsked({ shown: 'upside down', places: '' })).toEqual({})
  })

  it('has places to a thousandth of a millimetre', () => {
    expect(
      pairsText([
        [
          [1.00049, 2],
          [3, 4.5],
        ],
        [
          [-1, 0],
          [7, 8],
        ],
      ]),
    ).toBe('1,2,3,4.5,-1,0,7,8')
    expect(pairsText([])).toBe('')
  })

  it('of tiles says how the first lies and what is shown', () => {
    const tiles = tilesOf(laid([]), 'first')
    expect(tiles.address).toBe('/api/compare/r1/r2/0/0/1,0,0,1,6,-4/first')
    expect([tiles.width, tiles.height]).toEqual([2384, 1684])
  })
})

describe('picking places', () => {
  const picking = () => renderHook(() => usePicking([1, 0, 0, 1, 10, -5])).result

  it('takes one in the first and then the same in the second, three times at most', () => {
    const hand = picking()
    act(() => hand.current.begin())
    for (const at of [1, 2, 3, 4]) {
      act(() => hand.current.pick('first', [at, at]))
      act(() => hand.current.pick('second', [at + 0.5, at]))
    }
    expect(hand.current.pairs).toHaveLength(3)
    expect(hand.current.enough).toBe(true)
  })

  it('waits for the first, and takes another in its place', () => {
    const hand = picking()
    act(() => hand.current.begin())
    act(() => hand.current.pick('second', [9, 9]))
    expect(hand.current.pairs).toEqual([])
    act(() => hand.current.pick('first', [1, 1]))
    act(() => hand.current.pick('first', [2, 2]))
    expect(hand.current.waiting).toEqual([2, 2])
    act(() => hand.current.pick('second', [3, 3]))
    expect(hand.current.pairs).toEqual([
      [
        [2, 2],
        [3, 3],
      ],
    ])
    expect(hand.current.enough).toBe(false)
  })

  it('says where they are on the paper of the first, however it lies at the moment', () => {
    const hand = picking()
    act(() => hand.current.begin())
    act(() => hand.current.pick('first', [110, 45]))
    act(() => hand.current.pick('second', [7, 8]))
    expect(hand.current.text()).toBe('100,50,7,8')
    act(() => hand.current.stop())
    expect([hand.current.picking, hand.current.text()]).toEqual([false, ''])
  })
})

const list = (over: LaidOver, at: number | null, more: object = {}) => {
  const heard = { onShow: vi.fn(), onWithBlock: vi.fn(), onCloud: vi.fn() }
  const rest = {
    withBlock: false,
    mayMark: true,
    clouding: false,
    cloudError: null,
    clouded: 0,
    ...heard,
    ...more,
  }
  return { heard, shown: renderSeated(<RegionList laid={over} at={at} {...rest} />) }
}

describe('the list of changed places', () => {
  it('counts them, and says which have no cloud and how small one may be', async () => {
    const { shown } = list(laid([region(0), region(50, { clouded: true })], { too_many: true }), null)
    await shown
    expect(screen.getByRole('heading')).toHaveTextContent('2 and more changed places')
    expect(screen.getByText(/1 without a revision cloud/)).toBeInTheDocument()
    expect(screen.getByText(/Every change of 2 mm or more is listed/)).toBeInTheDocument()
    expect(screen.getAllByText('13 × 11 mm')).toHaveLength(2)
    expect(screen.getByText('△ no cloud')).toBeInTheDocument()
  })

  it('says that nothing has changed, and offers nothing then', async () => {
    const { shown } = list(laid([]), null)
    await shown
    expect(screen.getByRole('heading')).toHaveTextContent('Nothing has changed')
    expect(screen.queryByRole('button', { name: /Cloud/ })).toBeNull()
  })

  it('goes to a place, and clouds it or all that have none', async () => {
    const bare = [region(0), region(90)]
    const all = [bare[0], region(50, { clouded: true }), bare[1]] as Region[]
    const { heard, shown } = list(laid(all), 1)
    await shown
    expect(scrolled.mock.contexts[0]).toHaveTextContent('clouded')
    const [first] = screen.getAllByRole('button', { name: /×/ })
    await userEvent.click(first as HTMLElement)
    expect(heard.onShow).toHaveBeenCalledWith(0)
    await userEvent.click(screen.getByRole('button', { name: 'Cloud this one' }))
    expect(heard.onCloud).toHaveBeenCalledWith([all[1]])
    await userEvent.click(screen.getByRole('button', { name: 'Cloud all 2 without' }))
    expect(heard.onCloud).toHaveBeenLastCalledWith(bare)
  })

  it('lets readers look, and nobody cloud what they may not mark', async () => {
    const { heard, shown } = list(laid([region(0)]), 0, { mayMark: false })
    await shown
    expect(screen.queryByRole('button', { name: /Cloud/ })).toBeNull()
    await userEvent.click(screen.getByRole('checkbox', { name: 'Leave the title block out' }))
    expect(heard.onWithBlock).toHaveBeenCalledWith(true)
  })
})

describe('a cloud around a changed place', () => {
  const clouds = (over: LaidOver | undefined) => {
    const wrapper = ({ children }: { children: ReactNode }) => (
      <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>
    )
    return renderHook(() => useClouds(over), { wrapper }).result
  }

  it('stands 3 mm of paper around it, in the user space of the second', async () => {
    POST.mockResolvedValue([])
    const drawn = clouds(laid([]))
    act(() => drawn.current.mutate([region(100)]))
    await waitFor(() => expect(POST).toHaveBeenCalledOnce())
    const [path, { body }] = POST.mock.calls[0] as [
      string,
      { body: { marks: { points: [number, number][] }[] } },
    ]
    expect(path).toBe('/api/sheets/{revision_id}/marks')
    const margin = (3 * 2384) / 841
    const across = body.marks[0]?.points.map(([x]) => x) ?? []
    const up = body.marks[0]?.points.map(([, y]) => y) ?? []
    expect(Math.min(...across)).toBeCloseTo(100 - margin)
    expect(Math.max(...across)).toBeCloseTo(136 + margin)
    expect(Math.max(...up)).toBeCloseTo(1684 - 10 + margin)
    expect(Math.min(...up)).toBeCloseTo(1684 - 41 - margin)
    expect(body.marks[0]).toMatchObject({ kind: 'cloud', page: 0, text: 'Changed since BFT-1 P01.' })
  })

  it('is drawn for 500 places at once, and for none before they are known', async () => {
    POST.mockResolvedValue([])
    const drawn = clouds(laid([]))
    act(() => drawn.current.mutate(Array.from({ length: 510 }, (_, place) => region(place))))
    await waitFor(() => expect(POST).toHaveBeenCalledOnce())
    expect((POST.mock.calls[0] as [string, { body: { marks: unknown[] } }])[1].body.marks).toHaveLength(500)
    const none = clouds(undefined)
    act(() => none.current.mutate([region(0)]))
    await waitFor(() => expect(none.current.data).toEqual([]))
    expect(POST).toHaveBeenCalledOnce()
  })
})
