import { describe, expect, it } from 'vitest'

import { monthAfter, monthWords } from './months'

describe('months', () => {
  it('go over the year both ways', () => {
    expect(monthAfter('2027-03', 1)).toBe('2027-04')
    expect(monthAfter('2027-12', 1)).toBe('2028-01')
    expect(monthAfter('2027-01', -1)).toBe('2026-12')
    expect(monthAfter('2027-03', -27)).toBe('2024-12')
  })
  it('are said in words', () => {
    expect(monthWords('2027-03')).toBe('March 2027')
    expect(monthWords('2028-12')).toBe('December 2028')
  })
})
