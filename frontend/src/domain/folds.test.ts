import { describe, expect, it } from 'vitest'

import { stretchesOf } from './folds'

describe('a text with folds', () => {
  it('is words and what is folded, in order, without the empty lines between', () => {
    const text = 'Yes.\n\n> Is it wet?\nNo, dry.\n-- \nOtto\n'
    expect(
      stretchesOf(text, [
        [6, 19],
        [28, 38],
      ]),
    ).toEqual([
      { words: 'Yes.', folded: false },
      { words: '> Is it wet?', folded: true },
      { words: 'No, dry.', folded: false },
      { words: '-- \nOtto', folded: true },
    ])
  })

  it('counts characters and not the halves of them', () => {
    expect(stretchesOf('🏗 Yes\n> no', [[6, 10]])).toEqual([
      { words: '🏗 Yes', folded: false },
      { words: '> no', folded: true },
    ])
  })

  it('is itself without any', () => {
    expect(stretchesOf('Yes', [])).toEqual([{ words: 'Yes', folded: false }])
  })
})
