import { screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'

import { renderSeated } from '../../../testSeat'
import { isAsListed, ReceivedLines, tally } from './ReceivedLines'

const line = (number: string, found: string, more: { came_as?: string; words?: string } = {}) => ({
  number,
  revision: 'P02',
  title: '',
  file: '',
  found,
  words: found,
  came_as: '',
  arrival_id: '',
  ...more,
})

const LINES = [
  line('A-1', 'here'),
  line('A-2', 'missing'),
  line('A-3', 'other_revision', { came_as: 'P01' }),
  line('A-4', 'filed'),
  line('A-5', 'other_file'),
]

describe('their list against the files', () => {
  it('is told in a line, with nothing that is not there', () => {
    expect(tally(LINES, ['letter.txt'])).toBe(
      '2 of 5 here, 1 missing, 1 in another revision, 1 file not what was sent, 1 file on no list',
    )
    expect(tally(LINES.slice(0, 1), [])).toBe('1 of 1 here')
  })

  it('is as listed only if all is here and nothing besides', () => {
    expect(isAsListed([line('A-1', 'here'), line('A-2', 'filed')], [])).toBe(true)
    expect(isAsListed([line('A-1', 'here')], ['letter.txt'])).toBe(false)
    expect(isAsListed(LINES, [])).toBe(false)
  })

  it('shows first what differs, then what is on no list, then the rest', async () => {
    await renderSeated(<ReceivedLines lines={LINES} more={['letter.txt']} />)
    const [, ...rows] = within(screen.getByRole('table')).getAllByRole('row')
    const firsts = rows.map((row) => within(row).getAllByRole('cell')[0]?.textContent)
    expect(firsts).toEqual(['A-2', 'A-3', 'A-5', 'letter.txt', 'A-1', 'A-4'])
    expect(screen.getByText('came as P01')).toBeInTheDocument()
  })
})
