import { fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Selection } from '../../domain/rectangle'
import { AccessGrid } from './access/AccessGrid'
import { CodeRows, type CodeWords } from './CodeRows'
import { SaveBar } from './Section'
import { differences, type AccessGridData } from './access/useAccess'
import { useDraft } from './useSetup'
import { useField, useKept } from '../../ui/useKept'
import { SeatContext } from '../../api/me'
import { SEAT } from '../../testSeat'

// jsdom lays nothing out: here everything is seen.
vi.mock('@tanstack/react-virtual', () => ({
  useVirtualizer: ({ count, estimateSize }: { count: number; estimateSize: () => number }) => ({
    getVirtualItems: () =>
      Array.from({ length: count }, (_, index) => ({ index, key: index, start: index * estimateSize() })),
    getTotalSize: () => count * estimateSize(),
    scrollToIndex: () => undefined,
  }),
}))

const folder = (id: string, depth: number) => ({
  id,
  parent_id: null,
  name: `Folder ${id}`,
  depth,
  level: 'keep',
  documents: 1,
})
const column = (id: string) => ({ kind: 'person', id, name: `Person ${id}`, detail: 'HBC', fixed: false })

const GRID: AccessGridData = {
  version: 1,
  folders: [folder('a', 0), folder('b', 1)],
  columns: [column('1'), column('2')],
  levels: ['12', '04'],
  own: ['10', '00'],
  sources: [
    [0, 1],
    [1, 1],
  ],
  words: ['set for them', 'the role Reviewer'],
}

const onLevel = vi.fn()

function Grid() {
  const [selection, setSelection] = useState<Selection>({
    anchor: { row: 0, column: 0 },
    focus: { row: 0, column: 0 },
  })
  return (
    <AccessGrid
      grid={GRID}
      selection={selection}
      onSelect={setSelection}
      onLevel={onLevel}
      changed={new Set(['1/1'])}
      onFolder={() => undefined}
    />
  )
}

beforeEach(() => {
  vi.clearAllMocks()
})

const selected = () =>
  screen
    .getAllByRole('gridcell')
    .filter((cell) => cell.getAttribute('aria-selected') === 'true')
    .map((cell) => cell.dataset['cell'])

describe('the grid of access', () => {
  it('says each level and where it comes from', () => {
    render(<Grid />)
    expect(screen.getByRole('gridcell', { name: 'Person 1, Folder a: read, set for them' })).toBeVisible()
    expect(
      screen.getByRole('gridcell', { name: 'Person 2, Folder b: keep, the role Reviewer' }),
    ).toBeVisible()
  })

  it('selects a rectangle by keyboard and has one place for Tab', async () => {
    render(<Grid />)
    screen.getByRole('gridcell', { name: /Person 1, Folder a/ }).focus()
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowRight}{/Shift}')
    expect(selected()).toEqual(['0/0', '0/1', '1/0', '1/1'])
    expect(screen.getAllByRole('gridcell').filter((cell) => cell.tabIndex === 0)).toHaveLength(1)
  })

  it('selects a rectangle by dragging', () => {
    render(<Grid />)
    fireEvent.pointerDown(screen.getByRole('gridcell', { name: /Person 2, Folder a/ }))
    fireEvent.pointerOver(screen.getByRole('gridcell', { name: /Person 2, Folder b/ }))
    expect(selected()).toEqual(['0/1', '1/1'])
  })

  it.each([
    ['0', 'none'],
    ['3', 'file'],
    ['{Delete}', ''],
  ])('gives a level with %s', async (key, level) => {
    render(<Grid />)
    screen.getByRole('gridcell', { name: /Person 1, Folder a/ }).focus()
    await userEvent.keyboard(key)
    expect(onLevel).toHaveBeenCalledWith(level)
  })

  it('tells what somebody else changed, cell by cell, also when columns have moved', () => {
    const now = { ...GRID, version: 2, columns: [column('2'), column('1')], levels: ['04', '32'] }
    expect(differences(GRID, now)).toEqual(['Person 1 on Folder a: read → file'])
  })
})

function Codes() {
  const form = useKept('set-up', 'codes')
  const [rows, setRows] = useField<CodeWords[]>(form, 'rows', [{ code: 'A', words: 'Architecture' }])
  return (
    <>
      <output>{rows.map((row) => `${row.code}=${row.words}`).join('|')}</output>
      <CodeRows keep={form} what="code" rows={rows} onChange={setRows} />
    </>
  )
}

describe('codes with their meaning', () => {
  it('are added, moved and taken away', async () => {
    render(<Codes />)
    await userEvent.click(screen.getByRole('button', { name: 'Add a code' }))
    await userEvent.type(screen.getByLabelText('Code of code 2'), 's')
    await userEvent.type(screen.getByLabelText('Meaning of code S'), 'Structure')
    await userEvent.click(screen.getByRole('button', { name: 'Move S up' }))
    expect(screen.getByRole('status')).toHaveTextContent('S=Structure|A=Architecture')
    await userEvent.click(screen.getByRole('button', { name: 'Take A away' }))
    expect(screen.getByRole('status')).toHaveTextContent(/^S=Structure$/)
  })

  it('take two columns of a spreadsheet', () => {
    render(<Codes />)
    const clipboardData = { getData: () => 'm\tMechanical\nE\tElectrical\n' }
    fireEvent.paste(screen.getByLabelText('Code of code 1'), { clipboardData })
    expect(screen.getByRole('status')).toHaveTextContent('M=Mechanical|E=Electrical|A=Architecture')
  })
})

const Seated = ({ children }: { children: ReactNode }) => (
  <SeatContext.Provider value={SEAT}>{children}</SeatContext.Provider>
)

function Draft({ server, version }: { server: string; version: number }) {
  const draft = useDraft('words', server, version)
  const save = { mutate: vi.fn(), isPending: false, isSuccess: false, error: null, reset: vi.fn() }
  return (
    <>
      <input aria-label="Words" value={draft.value} onChange={(event) => draft.change(event.target.value)} />
      <SaveBar draft={draft} save={save} may />
    </>
  )
}

describe('a draft', () => {
  it('follows the server until it is touched, and is kept from then on', async () => {
    const { rerender } = render(<Draft server="one" version={1} />, { wrapper: Seated })
    rerender(<Draft server="two" version={2} />)
    expect(screen.getByLabelText('Words')).toHaveValue('two')
    await userEvent.type(screen.getByLabelText('Words'), '!')
    rerender(<Draft server="three" version={3} />)
    expect(screen.getByLabelText('Words')).toHaveValue('two!')
    expect(screen.getByRole('alert')).toHaveTextContent('Somebody saved the set-up')
    expect(screen.getByRole('button', { name: 'Save' })).toBeDead()
    await userEvent.click(screen.getByRole('button', { name: 'Keep mine' }))
    expect(screen.getByRole('button', { name: 'Save' })).not.toBeDead()
  })

  it('goes back to what is saved', async () => {
    render(<Draft server="one" version={1} />, { wrapper: Seated })
    expect(screen.getByRole('button', { name: 'Save' })).toBeDead()
    await userEvent.type(screen.getByLabelText('Words'), '!')
    await userEvent.click(screen.getByRole('button', { name: 'Put back' }))
    expect(screen.getByLabelText('Words')).toHaveValue('one')
  })
})
