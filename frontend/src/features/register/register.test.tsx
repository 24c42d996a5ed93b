import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../testSeat'
import { ColumnsDialog } from '../../ui/ColumnsDialog'
import { cellOf, listColumns } from './cells'
import { FilterBar } from './FilterBar'
import type { RegisterSearch } from './registerSearch'
import type { ColumnShown, DocumentLine } from './useRegister'

function column(key: string, head: string, kind: string, more: Partial<ColumnShown> = {}): ColumnShown {
  return { key, head, kind, width: 100, groups: kind === 'code', sorts: true, change: 'file', choices: [], folder_id: '', ...more } // prettier-ignore
}

const COLUMNS = [
  column('number', 'Number', 'text'),
  column('title', 'Title', 'text'),
  column('status', 'Status', 'code'),
  column('due_on', 'Due', 'date'),
  column('size_bytes', 'Size', 'number'),
  column('withdrawn', 'Withdrawn', 'yes_no'),
]
const VALUES = [
  { key: 'S3', words: 'S3 review and comment', count: 12 },
  { key: '', words: 'none', count: 2 },
]

const change = vi.fn()

vi.mock('./useRegister', async (original) => ({
  ...(await original()),
  useValues: () => ({ data: VALUES, isPending: false }),
}))

beforeEach(() => {
  vi.clearAllMocks()
})

function Bar({ first = {}, words = [] }: { first?: RegisterSearch; words?: string[] }) {
  const [search, setSearch] = useState(first)
  return (
    <>
      <button onClick={() => setSearch({ words: 'from a view' })}>Open a view</button>
      <FilterBar
        search={search}
        change={(part) => {
          change(part)
          setSearch((old) => ({ ...old, ...part }))
        }}
        columns={COLUMNS}
        words={words}
      />
    </>
  )
}

const field = () => screen.getByLabelText('Filter by number, title or field')

describe('what the list is narrowed to', () => {
  it('is told as it is typed, and never loses a letter', async () => {
    await renderSeated(<Bar />)
    await userEvent.type(field(), 'truss elevation')
    await waitFor(() => expect(change).toHaveBeenLastCalledWith({ words: 'truss elevation' }))
    expect(field()).toHaveValue('truss elevation')
  })

  it('takes the words of a view that is opened', async () => {
    await renderSeated(<Bar />)
    await userEvent.type(field(), 'tru')
    await waitFor(() => expect(change).toHaveBeenLastCalledWith({ words: 'tru' }))
    await userEvent.click(screen.getByText('Open a view'))
    await waitFor(() => expect(field()).toHaveValue('from a view'))
    expect(change).toHaveBeenLastCalledWith({ words: 'tru' })
  })

  it('shows each filter in the words of the server, and takes one away', async () => {
    const filters = [
      ['status', 'is', 'S3'],
      ['title', 'has', 'quay'],
    ]
    await renderSeated(<Bar first={{ filters }} words={['Status is S3', 'Title has “quay”']} />)
    await userEvent.click(screen.getByRole('button', { name: 'Take the filter away: Status is S3' }))
    expect(change).toHaveBeenCalledWith({ filters: [['title', 'has', 'quay']] })
  })

  it('filters by several values, with how many documents have each', async () => {
    await renderSeated(<Bar />)
    await userEvent.click(screen.getByRole('button', { name: 'Filter' }))
    const box = await screen.findByRole('dialog')
    const apply = within(box).getByRole('button', { name: 'Filter' })
    expect(apply).toBeDead()
    await userEvent.click(await within(box).findByRole('checkbox', { name: /S3 review and comment/ }))
    await userEvent.click(within(box).getByRole('checkbox', { name: /none/ }))
    await userEvent.click(apply)
    expect(change).toHaveBeenCalledWith({ filters: [['status', 'is', 'S3', '']] })
  })

  it('asks a day of a date, a number of a size, nothing of yes or no', async () => {
    await renderSeated(<Bar />)
    await userEvent.click(screen.getByRole('button', { name: 'Filter' }))
    const box = await screen.findByRole('dialog')
    await userEvent.selectOptions(within(box).getByLabelText('Column'), 'Due')
    await userEvent.type(within(box).getByLabelText('Day'), '14.3.')
    expect(within(box).getByText('Sun 14 Mar 2027')).toBeInTheDocument()
    await userEvent.selectOptions(within(box).getByLabelText('Column'), 'Size')
    expect(within(box).getByLabelText('Bytes')).toHaveAttribute('type', 'number')
    await userEvent.selectOptions(within(box).getByLabelText('Column'), 'Withdrawn')
    await userEvent.click(within(box).getByRole('button', { name: 'Filter' }))
    expect(change).toHaveBeenCalledWith({ filters: [['withdrawn', 'yes']] })
  })
})

describe('a line', () => {
  const at = {
    put_at: '2027-03-02T09:00:00Z',
    why: 'RV-0006, verdict A',
    verdict: 'A',
    passed: false,
    taken_out: false,
  }
  const line = {
    revision: 'C02',
    in_force: 'C01',
    release: 'newer',
    folder: 'Marine',
    is_copy: false,
  } as const
  const show = (row: Partial<DocumentLine>) =>
    renderSeated(
      <>
        {['revision', 'in_force', 'folder', 'release'].map((key) => (
          <p key={key} aria-label={key}>
            {cellOf(column(key, key, 'text'))({ ...line, also_in: [], ...row } as unknown as DocumentLine)}
          </p>
        ))}
      </>,
    )

  it('says where else its document lies', async () => {
    const copy = { ...at, document_id: 'd', revision_id: 'r', revision: 'C01', folder: 'Issued to the site' }
    await show({ also_in: [copy] })
    expect(screen.getByRole('img', { name: 'also in Issued to the site (C01)' })).toBeVisible()
    expect(screen.getByLabelText('folder')).toHaveTextContent('Marine; also in Issued to the site (C01)')
  })

  it('says that it is a copy, and that another is in force', async () => {
    await show({ is_copy: true, in_force: '', release: 'passed' })
    expect(screen.getByRole('img', { name: 'a copy in this folder' })).toBeVisible()
    expect(screen.getByLabelText('folder')).toHaveTextContent('Marine, a copy')
    expect(screen.getByLabelText('in_force')).toHaveTextContent('superseded')
    expect(screen.getByLabelText('release')).toHaveTextContent('another is in force than this copy')
  })

  it('says nothing of copies where there are none, or were taken out', async () => {
    const out = {
      ...at,
      document_id: 'd',
      revision_id: 'r',
      revision: 'C01',
      folder: 'Site',
      taken_out: true,
    }
    await show({ also_in: [out] })
    expect(screen.queryByRole('img')).toBeNull()
    expect(screen.getByLabelText('folder')).toHaveTextContent(/^Marine$/)
  })
})

describe('the columns', () => {
  it('are the usual ones, fewer beside a dossier, or those chosen in their widths', () => {
    const usual = ['number', 'title', 'status', 'due_on']
    const keys = (narrow: boolean, chosen?: [string, number][]) =>
      listColumns(COLUMNS, usual, chosen, 0, narrow).map((each) => `${each.key} ${each.width}`)
    expect(keys(false)).toEqual(['number 100px', 'title minmax(150px, 1fr)', 'status 100px', 'due_on 100px'])
    expect(keys(true)).toEqual(['number 190px', 'title minmax(90px, 1fr)', 'due_on 118px'])
    const chosen: [string, number][] = [
      ['status', 70],
      ['gone', 10],
      ['title', 0],
    ]
    expect(keys(true, chosen)).toEqual(['status 70px', 'title minmax(150px, 1fr)'])
  })

  it('are moved, left out, added and kept in view', async () => {
    const onDone = vi.fn()
    await renderSeated(
      <ColumnsDialog
        search={{}}
        columns={COLUMNS}
        usual={['number', 'title', 'status']}
        onDone={onDone}
        onClose={() => undefined}
      />,
    )
    await userEvent.click(screen.getByRole('button', { name: 'Move Status up' }))
    await userEvent.click(screen.getByRole('button', { name: 'Leave Title out' }))
    await userEvent.click(screen.getByRole('button', { name: '+ Due' }))
    await userEvent.selectOptions(screen.getByLabelText(/Stay in view/), 'up to Number')
    await userEvent.click(screen.getByRole('button', { name: 'Show these' }))
    expect(onDone).toHaveBeenCalledWith({
      columns: [
        ['number', 0],
        ['status', 0],
        ['due_on', 0],
      ],
      frozen: 1,
    })
  })
})
