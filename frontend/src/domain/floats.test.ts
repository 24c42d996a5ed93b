import { expect, it } from 'vitest'

import { floatChange } from './floats'

it('says what a float becomes', () => {
  expect(floatChange(12, -3, false)).toBe('12 → -3')
  expect(floatChange(null, 4, false)).toBe('not known → 4')
  expect(floatChange(4, 4, false)).toBe('4')
  expect(floatChange(null, -1, true)).toBe('-1')
  expect(floatChange(null, null, true)).toBe('not known')
})
