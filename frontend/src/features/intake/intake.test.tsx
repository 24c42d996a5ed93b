import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { STOPPED } from './arrival.fixture'
import { ArrivalPanel } from './ArrivalPanel'
import { ArrivalRow } from './ArrivalRow'
import { withFolder } from './droppedFiles'
import type { Arrival } from './useIntake'
import { countFindings, mendOf, type Table } from './useTable'

async function showRow(arrival: Arrival) {
  const table = { type: vi.fn(), paste: vi.fn(), fill: vi.fn(), mark: vi.fn() }
  const acts = { onOpen: vi.fn(), onRange: vi.fn(), onMove: vi.fn() }
  await renderSeated(
    <div role="grid" aria-label="Files">
      <ArrivalRow arrival={arrival} place={3} table={table} isMarked={false} isOpen={false} {...acts} />
    </div>,
  )
  return { table, ...acts }
}

describe('a line of Intake', () => {
  it('marks the faulty cell, shows the gravest finding and how many more there are', async () => {
    const { onOpen } = await showRow(STOPPED)
    expect(screen.getByText('Stop')).toBeInTheDocument()
    expect(screen.getByLabelText(/^Number of/)).toBeInvalid()
    expect(screen.getByLabelText(/^Title of/)).toBeValid()
    expect(screen.getByText('+2')).toBeInTheDocument()
    await userEvent.click(screen.getByText('Field discipline is “X”.'))
    expect(onOpen).toHaveBeenCalledWith('x')
  })

  it('saves on leaving, takes back on Esc, goes down on Enter, and saves nothing that is the same', async () => {
    const { table, onMove } = await showRow(STOPPED)
    const title = screen.getByLabelText(/^Title of/)
    await userEvent.type(title, ' and lift')
    await userEvent.tab()
    expect(table.type).toHaveBeenCalledExactlyOnceWith(STOPPED, 'title', 'Stairs and lift', expect.anything())
    await userEvent.clear(title)
    await userEvent.type(title, 'Other{Escape}')
    expect(title).toHaveValue('Stairs')
    await userEvent.type(title, '{Enter}')
    expect(onMove).toHaveBeenCalledWith(4, 'title')
    await userEvent.type(title, '{ArrowUp}')
    expect(onMove).toHaveBeenLastCalledWith(2, 'title')
    expect(table.type).toHaveBeenCalledOnce()
  })

  it('fills down with Ctrl+D, and hands on several pasted lines; a single one is typed', async () => {
    const { table } = await showRow(STOPPED)
    const revision = screen.getByLabelText(/^Revision of/)
    await userEvent.type(revision, '{Control>}d{/Control}')
    expect(table.fill).toHaveBeenCalledWith('revision', STOPPED, STOPPED.revision)
    await userEvent.click(revision)
    await userEvent.paste('P01\nP02\n')
    expect(table.paste).toHaveBeenCalledWith(STOPPED, 'revision', ['P01', 'P02'])
    await userEvent.clear(revision)
    await userEvent.paste('P07')
    expect(revision).toHaveValue('P07')
  })

  it('counts the pages of a long file while it is read', async () => {
    await showRow({ ...STOPPED, looking: true, page_count: 300, pages_read: 125 })
    expect(screen.getByText('125/300')).toBeInTheDocument()
    expect(screen.queryByText('Stop')).toBeNull()
  })
})

describe('the panel of a file', () => {
  async function showPanel(arrival: Arrival) {
    const type = vi.fn()
    const table = { type, take: type, busy: false } as unknown as Table
    await renderSeated(
      <ArrivalPanel
        arrival={arrival}
        table={table}
        onClose={vi.fn()}
        onSendBack={vi.fn()}
        onDiscard={vi.fn()}
      />,
    )
    return type
  }

  it('names each finding, offers its mend, and none where it is no value', async () => {
    const type = await showPanel(STOPPED)
    expect(screen.getByText('Wrong number')).toBeInTheDocument()
    expect(screen.getAllByRole('button', { name: /^Take BFT|^Take Stair/ })).toHaveLength(2)
    expect(screen.getByText(/15 kB, 2 pages, A3, 1:100, from the folder Issue 3\/Plans/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Take Stair core' }))
    expect(type).toHaveBeenCalledWith(STOPPED, 'title', 'Stair core', { taken: 'register' })
  })

  it('sets the witnesses side by side, says why one is silent, and takes what one says', async () => {
    const type = await showPanel(STOPPED)
    await userEvent.click(screen.getByRole('tab', { name: 'Witnesses' }))
    expect(screen.getByText(/\$Revision\$/)).toBeInTheDocument()
    expect(screen.getByText('typed')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'Take BFT-TRA-Z1-01-D-A-0191' }))
    expect(type).toHaveBeenCalledWith(STOPPED, 'number', 'BFT-TRA-Z1-01-D-A-0191', 'title block')
  })
})

describe('findings of a batch', () => {
  it('are counted by name, the most frequent first, with those that have a mend', () => {
    const other = { ...STOPPED, id: 'y', findings: STOPPED.findings.slice(1) }
    expect(countFindings([STOPPED, other])).toEqual([
      { code: 'title_changed', name: 'Title changed', count: 2, mends: 2 },
      { code: 'no_text', name: 'No text', count: 2, mends: 0 },
      { code: 'number_breaks_convention', name: 'Wrong number', count: 1, mends: 1 },
    ])
  })

  it('are mended by the witness whose value it is', () => {
    expect(mendOf(STOPPED, 'title_changed')).toEqual([
      { id: 'x', version: 1, values: { title: 'Stair core' }, taken: { title: 'register' } },
    ])
    expect(mendOf(STOPPED, 'no_text')).toEqual([])
  })
})

describe('a file out of a folder', () => {
  it('keeps the way to it without its own name', () => {
    const file = new File(['x'], 'plan.pdf')
    Object.defineProperty(file, 'webkitRelativePath', { value: 'Issue 3/Plans/plan.pdf' })
    expect(withFolder(file).folder).toBe('Issue 3/Plans')
    const alone = new File(['x'], 'plan.pdf')
    Object.defineProperty(alone, 'webkitRelativePath', { value: '' })
    expect(withFolder(alone).folder).toBe('')
  })
})
