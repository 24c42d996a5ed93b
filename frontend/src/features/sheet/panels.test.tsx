import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { FindOnSheet } from './FindOnSheet'
import { LayersPanel } from './LayersPanel'
import { PenRoll } from './marks/PenRoll'
import { PrintDialog } from './PrintDialog'
import type { Hand } from './marks/useHand'
import { usePens, type Pen } from './marks/usePens'

const GET = vi.fn()
const PUT = vi.fn()
const download = vi.fn()
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...asked: unknown[]) => GET(...asked) as unknown,
    PUT: (...asked: unknown[]) => PUT(...asked) as unknown,
  },
  unwrapAs: (answer: Promise<unknown>) => answer,
}))
vi.mock('../../api/download', () => ({ download: (...asked: unknown[]) => download(...asked) as unknown }))

beforeEach(() => {
  vi.clearAllMocks()
})

const pen = (name: string) =>
  ({ name, kind: 'cloud', look: { colour: 'red' }, ink: '', discipline: '' }) as unknown as Pen

describe('the pen roll', () => {
  const take = vi.fn()
  const close = vi.fn()

  function Roll() {
    const pens = usePens('bft')
    const hand = { take } as unknown as Hand
    return pens.rolls.data ? (
      <PenRoll rolls={pens.rolls.data} pens={pens} inks={{ red: '#f00' }} hand={hand} onClose={close} />
    ) : null
  }

  async function opened(more: object = {}) {
    const own = ['Cloud', 'Callout', 'Text'].map(pen)
    const rolls = {
      own,
      project: [pen('Fire')],
      own_version: 3,
      project_version: 8,
      may_share: true,
      by: '',
      ...more,
    }
    GET.mockResolvedValue(rolls)
    let version = 3
    PUT.mockImplementation(() => Promise.resolve({ version: ++version }))
    await renderSeated(<Roll />)
    await screen.findByRole('region', { name: 'Pen roll' })
  }
  const names = (list: string) =>
    within(screen.getByRole('list', { name: list }))
      .getAllByRole('listitem')
      .map((each) => (each.textContent ?? '').replace(/^\d/, ''))
  const kept = () =>
    PUT.mock.calls.map((call) => (call[1] as { body: { version: number; pens: Pen[] } }).body)

  it('is put in order by keyboard, however fast, each time on what the time before has left', async () => {
    await opened()
    const up = screen.getByRole('button', { name: 'Text up' })
    up.focus()
    await userEvent.keyboard('{Enter}{Enter}')
    expect(names('My pens')).toEqual(['Text', 'Cloud', 'Callout'])
    expect(screen.getByRole('button', { name: 'Text up' })).toBeDead()
    await waitFor(() => expect(kept()).toHaveLength(2))
    expect(kept().map(({ version }) => version)).toEqual([3, 4])
    expect(kept()[1]?.pens.map(({ name }) => name)).toEqual(['Text', 'Cloud', 'Callout'])
  })

  it('is put in order by dragging', async () => {
    await opened()
    const [first, , last] = within(screen.getByRole('list', { name: 'My pens' })).getAllByRole('listitem')
    fireEvent.dragStart(first as HTMLElement)
    fireEvent.dragOver(last as HTMLElement)
    fireEvent.drop(last as HTMLElement)
    fireEvent.dragEnd(first as HTMLElement)
    await waitFor(() => expect(names('My pens')).toEqual(['Callout', 'Text', 'Cloud']))
  })

  it('gives a pen into the hand and closes', async () => {
    await opened()
    await userEvent.click(screen.getByRole('button', { name: 'Callout' }))
    expect(take).toHaveBeenCalledWith(expect.objectContaining({ name: 'Callout' }))
    expect(close).toHaveBeenCalledOnce()
  })

  it('shares with the project, takes from it, and shares no more', async () => {
    await opened()
    await userEvent.click(screen.getByRole('button', { name: 'Share Text with the project' }))
    expect(names('Pens of the project')).toEqual(['Fire', 'Text'])
    await userEvent.click(screen.getByRole('button', { name: 'Add Fire to mine' }))
    expect(names('My pens')).toEqual(['Cloud', 'Callout', 'Text', 'Fire'])
    await userEvent.click(screen.getByRole('button', { name: 'Share Fire no more' }))
    expect(names('Pens of the project')).toEqual(['Text'])
    await userEvent.click(screen.getByRole('button', { name: 'Remove Cloud' }))
    expect(names('My pens')).toEqual(['Callout', 'Text', 'Fire'])
  })

  it('is shared by nobody who may not', async () => {
    await opened({ may_share: false, project: [] })
    expect(screen.queryByRole('button', { name: /Share/ })).toBeNull()
    expect(screen.getByText(/No pens are shared yet/)).toBeInTheDocument()
  })

  it('leaves as a file, and comes back from one; what is none is said and changes nothing', async () => {
    await opened()
    const href = screen.getByRole('link', { name: 'Download my roll' }).getAttribute('href') ?? ''
    const gone = decodeURIComponent(href.replace('data:application/json,', ''))
    const input = screen.getByLabelText('File with a roll of pens')
    await userEvent.upload(input, new File(['{"pens": 7}'], 'shopping.json', { type: 'application/json' }))
    expect(await screen.findByText(/shopping\.json is no roll of pens/)).toBeInTheDocument()
    expect(names('My pens')).toEqual(['Cloud', 'Callout', 'Text'])
    await userEvent.click(screen.getByRole('button', { name: 'Remove Cloud' }))
    await userEvent.upload(input, new File([gone], 'pens.json', { type: 'application/json' }))
    await waitFor(() => expect(names('My pens')).toEqual(['Cloud', 'Callout', 'Text']))
    expect(screen.queryByText(/is no roll of pens/)).toBeNull()
  })

  it('shows what is kept when keeping it is refused', async () => {
    await opened()
    PUT.mockRejectedValue(new Error('refused'))
    await userEvent.click(screen.getByRole('button', { name: 'Remove Cloud' }))
    expect(await screen.findByRole('alert')).toBeInTheDocument()
    await waitFor(() => expect(names('My pens')).toEqual(['Cloud', 'Callout', 'Text']))
  })

  it('says by what the project gives ink', async () => {
    await opened({ by: 'company' })
    expect(screen.getByText(/every company has its ink/)).toBeInTheDocument()
  })
})

describe('layers', () => {
  const layers = [
    { name: 'Walls', on: true },
    { name: '', on: false },
    { name: 'Grid', on: true },
  ]

  function Panel({ heard }: { heard: (off: ReadonlySet<number> | null) => void }) {
    const [off, setOff] = useState<ReadonlySet<number> | null>(null)
    const onOff = (next: ReadonlySet<number> | null) => {
      setOff(next)
      heard(next)
    }
    return <LayersPanel layers={layers} off={off} onOff={onOff} onClose={() => undefined} />
  }

  it('begin as the file has them and are switched from there', async () => {
    const heard = vi.fn()
    await renderSeated(<Panel heard={heard} />)
    expect(screen.getByRole('heading')).toHaveTextContent('Layers 2 of 3 on')
    expect(screen.getByRole('checkbox', { name: 'layer 2' })).not.toBeChecked()
    expect(screen.getByRole('button', { name: 'As the file has them' })).toBeDead()
    await userEvent.click(screen.getByRole('checkbox', { name: 'Grid' }))
    expect(heard).toHaveBeenLastCalledWith(new Set([1, 2]))
    await userEvent.click(screen.getByRole('checkbox', { name: 'layer 2' }))
    expect(heard).toHaveBeenLastCalledWith(new Set([2]))
    expect(screen.getByRole('heading')).toHaveTextContent('Layers 2 of 3 on')
  })

  it('are all on, all off, or as they were', async () => {
    const heard = vi.fn()
    await renderSeated(<Panel heard={heard} />)
    await userEvent.click(screen.getByRole('button', { name: 'All on' }))
    expect(heard).toHaveBeenLastCalledWith(new Set())
    await userEvent.click(screen.getByRole('button', { name: 'All off' }))
    expect(heard).toHaveBeenLastCalledWith(new Set([0, 1, 2]))
    await userEvent.click(screen.getByRole('button', { name: 'As the file has them' }))
    expect(heard).toHaveBeenLastCalledWith(null)
    expect(screen.getByRole('heading')).toHaveTextContent('Layers 2 of 3 on')
  })
})

describe('printing', () => {
  it('takes the paper and the marks that are wanted', async () => {
    const closed = vi.fn()
    await renderSeated(<PrintDialog revisionId="r1" ink={2} open onClose={closed} />)
    await userEvent.selectOptions(screen.getByLabelText('Paper'), 'A3')
    await userEvent.click(screen.getByRole('checkbox', { name: 'With the 2 marks in ink' }))
    await userEvent.click(screen.getByRole('button', { name: 'Make the PDF' }))
    expect(download).toHaveBeenCalledWith('/api/sheets/r1/print', { paper: 'A3', marks: 'false' })
    expect(closed).toHaveBeenCalledOnce()
  })

  it('offers no marks where none are in ink', async () => {
    await renderSeated(<PrintDialog revisionId="r1" ink={0} open onClose={() => undefined} />)
    expect(screen.getByRole('checkbox', { name: 'Nothing is in ink' })).toBeDisabled()
    await userEvent.click(screen.getByRole('button', { name: 'Make the PDF' }))
    expect(download).toHaveBeenCalledWith('/api/sheets/r1/print', { paper: 'own', marks: 'false' })
  })
})

describe('words on the sheet', () => {
  const hit = (words: string, page = 0) => ({ words, page, box: [0, 0, 1, 1] })
  const opened = async (found: object) => {
    const heard = { onShow: vi.fn(), onClose: vi.fn() }
    GET.mockResolvedValue({ hits: [], more: false, has_words: true, ...found })
    await renderSeated(<FindOnSheet revisionId="r1" ways={[]} {...heard} />)
    return heard
  }

  it('are gone through with Enter, round and round, and back with Shift', async () => {
    const hits = [hit('door D-101'), hit('door D-102', 1)]
    const { onShow, onClose } = await opened({ hits })
    await userEvent.keyboard('d')
    expect(screen.getByRole('status')).toHaveTextContent('Two letters or more')
    expect(GET).not.toHaveBeenCalled()
    await userEvent.keyboard('oor')
    await waitFor(() => expect(screen.getByRole('status')).toHaveTextContent('2 places'))
    await userEvent.keyboard('{Enter}{Enter}{Enter}')
    expect(onShow.mock.calls.map(([shown]) => shown as unknown)).toEqual([hits[0], hits[1], hits[0]])
    expect(screen.getByRole('status')).toHaveTextContent('1 of 2')
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    expect(onShow).toHaveBeenLastCalledWith(hits[1])
    expect(screen.getByRole('button', { name: /^p 2 ·\s*door D-102$/ })).toHaveAttribute(
      'aria-current',
      'true',
    )
    await userEvent.keyboard('{Escape}')
    expect(onClose).toHaveBeenCalledOnce()
  })

  it.each([
    [{ has_words: false }, 'This sheet is a scan: it has no words.'],
    [{}, 'The sheet does not say that.'],
    [{ hits: [hit('x')], more: true }, '1 and more place'],
  ])('that are not there are told apart: %o', async (found, words) => {
    await opened(found)
    await userEvent.keyboard('pump')
    await waitFor(() => expect(screen.getByRole('status')).toHaveTextContent(words))
  })
})
