import { expect, test } from 'vitest'

import { namesLike, typingName, withName } from './mention'

const PEOPLE = [{ name: 'Anouk Ferreira' }, { name: 'Leilani Brandt' }, { name: 'Ana Lima' }]

test.each([
  ['@', 1, { at: 0, letters: '' }],
  ['Ask @Le', 7, { at: 4, letters: 'Le' }],
  ['@Anouk F', 8, { at: 0, letters: 'Anouk F' }],
  ['@Le and more', 3, { at: 0, letters: 'Le' }],
  ['no name', 7, null],
  ['@Anouk\nnext line', 16, null],
])('a name is being typed in %j at %i', (text, caret, typing) => {
  expect(typingName(text, caret)).toEqual(typing)
})

test.each([
  ['', ['Anouk Ferreira', 'Leilani Brandt', 'Ana Lima']],
  ['an', ['Anouk Ferreira', 'Ana Lima']],
  ['bra', ['Leilani Brandt']],
  ['Leilani Brandt', []],
  ['x', []],
])('%j may be', (letters, names) => {
  expect(namesLike(PEOPLE, letters).map((each) => each.name)).toEqual(names)
})

test('the name stands where it was typed, with one blank after it', () => {
  expect(withName('Ask @Le please', { at: 4, letters: 'Le' }, 'Leilani Brandt')).toEqual({
    text: 'Ask @Leilani Brandt please',
    caret: 19,
  })
  expect(withName('@An', { at: 0, letters: 'An' }, 'Ana Lima')).toEqual({ text: '@Ana Lima ', caret: 10 })
})
