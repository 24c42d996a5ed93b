import { expect, it } from 'vitest'

import { inTurn } from './inTurn'

it('sends the next when the one before has come, and of those that waited the newest', async () => {
  const said: string[] = []
  const come: (() => void)[] = []
  const say = inTurn()
  const send = (word: string) => () => {
    said.push(word)
    return new Promise<void>((done) => come.push(done))
  }
  for (const word of ['a', 'b', 'c']) say(send(word))
  expect(said).toEqual(['a'])
  come.shift()?.()
  await Promise.resolve().then(() => new Promise((done) => setTimeout(done)))
  expect(said).toEqual(['a', 'c'])
})

it('goes on after what failed', async () => {
  const said: string[] = []
  const say = inTurn()
  say(() => Promise.reject(new Error('no line')))
  say(() => Promise.resolve(said.push('b')))
  await new Promise((done) => setTimeout(done))
  expect(said).toEqual(['b'])
})
