import { fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { expect, it, vi } from 'vitest'

import { ListTable, type Column } from './ListTable'
import { slipsOf } from './slips'

interface Row {
  id: string
  group: string
}

const ROWS: Row[] = [
  { id: 'a1', group: 'A' },
  { id: 'a2', group: 'A' },
  { id: 's1', group: 'S' },
]
const GROUPS = [
  { key: 'A', words: 'Architecture', count: 2 },
  { key: 'S', words: 'Structure', count: 9 },
  { key: 'F', words: 'Fire', count: 4 },
]
const COLUMNS: Column<Row>[] = [{ key: 'id', head: 'Id', width: '90px', cell: (row) => row.id }]
const SLIPS = slipsOf(COLUMNS, { what: 'id', below: [] })

vi.mock('@tanstack/react-virtual', () => ({
  useVirtualizer: ({ count }: { count: number }) => ({
    getVirtualItems: () =>
      Array.from({ length: count }, (_, index) => ({ index, start: index * 32, size: 32 })),
    getTotalSize: () => count * 32,
    scrollToIndex: () => undefined,
    measure: () => undefined,
  }),
}))

function List() {
  const [shut, setShut] = useState<string[]>([])
  const onToggle = (key: string) => setShut(shut.includes(key) ? [] : [key])
  const rows = ROWS.filter((row) => !shut.includes(row.group))
  return (
    <ListTable
      label="Sheets"
      slips={SLIPS}
      rows={rows}
      rowId={(row) => row.id}
      columns={COLUMNS}
      onShow={() => undefined}
      grouping={{ groups: GROUPS, shut, groupOf: (row) => row.group, onToggle }}
    />
  )
}

const lines = () => screen.getAllByRole('row').map((row) => row.textContent)

it('puts lines under their headings, and no heading before its lines have come', () => {
  render(<List />)
  expect(lines()).toEqual(['Id', 'Architecture2', 'a1', 'a2', 'Structure9', 's1'])
})

it('shuts a group by its heading or by Enter, and opens it again', async () => {
  render(<List />)
  await userEvent.click(screen.getByRole('button', { name: /Architecture/ }))
  expect(lines()).toEqual(['Id', 'Architecture2', 'Structure9', 's1'])
  expect(screen.getByRole('button', { name: /Architecture/ })).toHaveAttribute('aria-expanded', 'false')
  const heading = screen.getByText('Architecture').closest<HTMLElement>('[role=row]')
  heading?.focus()
  fireEvent.keyDown(heading as HTMLElement, { key: 'Enter' })
  expect(lines()).toHaveLength(6)
})
