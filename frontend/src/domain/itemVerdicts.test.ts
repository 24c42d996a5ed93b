import { expect, it } from 'vitest'

import { answered } from './itemVerdicts'

const ORDER = ['A', 'B', 'C']
const ITEMS = [
  { id: '1', is_open: true },
  { id: '2', is_open: false },
  { id: '3', is_open: true },
]

it('one verdict counts for all that is open', () => {
  expect(answered(ITEMS, ORDER, 'B', {})).toEqual({ verdict: 'B', items: { '1': 'B', '3': 'B' } })
})

it('the gravest of the items is the verdict', () => {
  expect(answered(ITEMS, ORDER, 'A', { '3': 'C' })).toEqual({ verdict: 'C', items: { '1': 'A', '3': 'C' } })
})

it('there is none while an item has none', () => {
  expect(answered(ITEMS, ORDER, '', { '3': 'C' }).verdict).toBe('')
})

it('without items it is the one given', () => {
  expect(answered([], ORDER, 'A', {})).toEqual({ verdict: 'A', items: {} })
})
