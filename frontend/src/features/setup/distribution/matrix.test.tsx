import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { renderSeated } from '../../../testSeat'
import { MatrixGrid } from './MatrixGrid'
import { A_LINE, lineWords, withShare, type Matrix } from './useDistribution'

const matrix: Matrix = {
  version: 1,
  lines: [],
  holders: [
    { kind: 'company', id: 'c1', code: 'PLS', name: 'Plinthwork Structures', people: 1 },
    { kind: 'role', id: 'author', code: '', name: 'Author', people: 2 },
  ],
  disciplines: [{ code: 'A', words: 'Architecture' }],
  forms: [{ code: 'D', words: 'Drawing' }],
  statuses: [],
  purposes: [],
  whens: [{ code: 'filed', words: 'when it is filed' }],
}
const [company, role] = matrix.holders as [Matrix['holders'][number], Matrix['holders'][number]]
const lines = [
  { ...A_LINE, discipline: 'A', form: 'D', status: 'S3' },
  withShare({ ...A_LINE }, company, 'act'),
]

describe('the distribution matrix', () => {
  it('says a line in words', () => {
    expect(lines.map((each) => lineWords(each, matrix))).toEqual([
      'Architecture, drawing at S3, when it is filed',
      'All disciplines, all forms, when it is filed',
    ])
  })

  it('has a cell once, and none for nothing', () => {
    const line = withShare(withShare(lines[1]!, company, 'know'), role, 'act')
    expect(line.shares).toEqual([
      { kind: 'company', id: 'c1', share: 'know' },
      { kind: 'role', id: 'author', share: 'act' },
    ])
    expect(withShare(line, company, '').shares).toHaveLength(1)
  })

  it('is set by a press and by keys, and moved about in by arrows', async () => {
    const onShare = vi.fn()
    await renderSeated(<MatrixGrid matrix={matrix} lines={lines} at={0} onAt={vi.fn()} onShare={onShare} />)
    const cell = screen.getByRole('button', { name: /^PLS .*; All disciplines.*: to act$/ })
    await userEvent.click(cell)
    expect(onShare).toHaveBeenLastCalledWith(1, company, 'know')
    await userEvent.keyboard('{ArrowUp}{ArrowRight}a')
    expect(onShare).toHaveBeenLastCalledWith(0, role, 'act')
    await userEvent.keyboard('{Delete}')
    expect(onShare).toHaveBeenLastCalledWith(0, role, '')
  })

  it('is read by who may not change it', async () => {
    await renderSeated(<MatrixGrid matrix={matrix} lines={lines} at={0} onAt={vi.fn()} onShare={undefined} />)
    expect(screen.getAllByRole('button')).toHaveLength(2)
    expect(screen.getByTitle(/^PLS .*; All disciplines.*: to act$/)).toHaveTextContent('act')
  })
})
