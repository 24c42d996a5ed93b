import { act, fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { ListTable, type Column } from './ListTable'
import { slipsOf } from './slips'

interface Row {
  id: string
  title: string
}

const ROWS: Row[] = Array.from({ length: 500 }, (_, place) => ({ id: `r${place}`, title: `Sheet ${place}` }))
const COLUMNS: Column<Row>[] = [
  { key: 'title', head: 'Title', width: '1fr', sorts: true, cell: (row) => row.title },
  { key: 'id', head: 'Id', width: '60px', cell: (row) => row.id },
]
const SLIPS = slipsOf(COLUMNS, { what: 'title', below: ['id', 'no such column'] })

const onShow = vi.fn()
const onGo = vi.fn()
const onSort = vi.fn()

function List() {
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  return (
    <>
      <output>{[...marked].sort().join(' ')}</output>
      <ListTable
        label="Sheets"
        slips={SLIPS}
        rows={ROWS}
        rowId={(row) => row.id}
        columns={COLUMNS}
        onShow={onShow}
        onGo={onGo}
        onSort={onSort}
        sorts={[{ key: 'title', descending: true }]}
        marked={marked}
        onMark={(ids, on) =>
          setMarked((old) => new Set(on ? [...old, ...ids] : [...old].filter((id) => !ids.includes(id))))
        }
      />
    </>
  )
}

// jsdom lays nothing out, so the package that draws only what is seen would draw nothing: here it sees forty lines.
vi.mock('@tanstack/react-virtual', () => ({
  useVirtualizer: ({ count }: { count: number }) => ({
    getVirtualItems: () =>
      Array.from({ length: Math.min(count, 40) }, (_, index) => ({ index, start: index * 32, size: 32 })),
    getTotalSize: () => count * 32,
    scrollToIndex: () => undefined,
    measure: () => undefined,
  }),
}))

beforeEach(() => {
  vi.clearAllMocks()
})

async function first() {
  const row = (await screen.findByText('Sheet 0')).closest<HTMLElement>('[role=row]')
  row?.focus()
  return row
}

describe('a list', () => {
  it('draws only what is seen, and says how long it is', async () => {
    render(<List />)
    await first()
    expect(screen.getAllByRole('row').length).toBeLessThan(60)
    expect(screen.getByRole('grid')).toHaveAttribute('aria-rowcount', '501')
  })

  it('has a single place for the Tab key', async () => {
    render(<List />)
    await first()
    const places = screen.getAllByRole('row').filter((row) => row.tabIndex === 0)
    expect(places).toHaveLength(1)
  })

  it('shows with Space and goes with Enter', async () => {
    render(<List />)
    const row = await first()
    fireEvent.keyDown(row as Element, { key: ' ' })
    fireEvent.keyDown(row as Element, { key: 'Enter' })
    expect(onShow).toHaveBeenCalledWith(ROWS[0])
    expect(onGo).toHaveBeenCalledWith(ROWS[0])
  })

  it('marks with x, and a range with Shift and the arrows', async () => {
    render(<List />)
    fireEvent.keyDown((await first()) as Element, { key: 'x' })
    expect(screen.getByRole('status')).toHaveTextContent(/^r0$/)
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowDown}{/Shift}')
    expect(screen.getByRole('status')).toHaveTextContent(/^r0 r1 r2$/)
  })

  it('marks with the mouse without opening the dossier', async () => {
    render(<List />)
    await first()
    const boxes = screen.getAllByLabelText('Mark this line')
    await userEvent.click(boxes[3] as Element)
    expect(screen.getByRole('status')).toHaveTextContent(/^r3$/)
    expect(onShow).not.toHaveBeenCalled()
  })

  it('tells its order and asks for another', async () => {
    render(<List />)
    expect(screen.getByRole('columnheader', { name: 'Title' })).toHaveAttribute('aria-sort', 'descending')
    await userEvent.click(screen.getByRole('button', { name: 'Title' }))
    expect(onSort).toHaveBeenCalledWith('title', false)
  })

  it('does not take the focus back from where the person went meanwhile', async () => {
    render(
      <>
        <button type="button">Elsewhere</button>
        <List />
      </>,
    )
    const row = await first()
    fireEvent.keyDown(row as Element, { key: 'End' })
    screen.getByRole('button', { name: 'Elsewhere' }).focus()
    await new Promise((resolve) => requestAnimationFrame(resolve))
    expect(screen.getByRole('button', { name: 'Elsewhere' })).toHaveFocus()
  })

  it('marks the line that has the focus', async () => {
    render(<List />)
    const row = (await screen.findByText('Sheet 7')).closest<HTMLElement>('[role=row]')
    act(() => row?.focus())
    await userEvent.keyboard('x')
    expect(screen.getByRole('status')).toHaveTextContent('r7')
  })
})

describe('on a phone', () => {
  beforeEach(() => {
    vi.stubGlobal('matchMedia', () => ({
      matches: true,
      addEventListener: vi.fn(),
      removeEventListener: vi.fn(),
    }))
    return () => vi.unstubAllGlobals()
  })

  it('is slips of two lines, sorted by what is chosen, worked as elsewhere', async () => {
    render(<List />)
    expect(screen.queryByRole('button', { name: 'Title' })).toBeNull()
    const line = screen.getAllByRole('row')[1]
    expect(line?.querySelectorAll('[role=gridcell]')).toHaveLength(3)
    expect(line).toHaveTextContent('Sheet 0r0')
    await userEvent.click(screen.getByRole('button', { name: 'Falling; turn round' }))
    expect(onSort).toHaveBeenCalledExactlyOnceWith('title', false)
    await userEvent.click(screen.getAllByLabelText('Mark this line')[0] as HTMLElement)
    expect(screen.getByRole('status')).toHaveTextContent('r0')
    await userEvent.click(screen.getByText('Sheet 1'))
    expect(onShow).toHaveBeenCalledExactlyOnceWith(ROWS[1])
  })
})
