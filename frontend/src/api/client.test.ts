import { afterEach, describe, expect, it, vi } from 'vitest'

import { unwrap } from './client'
import { KNOWN_CODES, Refused, wordsOf } from './problems'

function answer(status: number, error?: unknown) {
  return Promise.resolve({ error, response: new Response(null, { status }) })
}

function problem(code: string, detail = '') {
  return { type: 'about:blank', title: '', status: 422, detail, code, about: '' }
}

afterEach(() => vi.restoreAllMocks())

describe('a refusal', () => {
  it('says the words of its situation', async () => {
    await expect(unwrap(answer(409, problem('stale')))).rejects.toThrow('Somebody changed this while')
  })

  it('says the server’s words where they name the thing', async () => {
    const refused = unwrap(answer(422, problem('in_review_already', 'BFT-1 is in RV-0001 already.')))
    await expect(refused).rejects.toThrow('BFT-1 is in RV-0001 already.')
  })

  it('is told as a fault where the answer is no problem at all', async () => {
    await expect(unwrap(answer(502, '<html>'))).rejects.toMatchObject({
      problem: { code: 'fault', status: 502 },
    })
  })

  it('is a broken line where no answer came', async () => {
    await expect(unwrap(Promise.reject(new TypeError('fetch failed')))).rejects.toThrow(
      'No connection to Nod',
    )
  })

  it('has words for every code, or leaves them to the server', () => {
    for (const code of KNOWN_CODES) {
      expect(wordsOf(new Refused(problem(code, 'the server’s words'))).length).toBeGreaterThan(10)
    }
  })
})

it('gives the data of an answer', async () => {
  const data = { number: 'BFT-1' }
  await expect(
    unwrap(Promise.resolve({ data, response: new Response(null, { status: 200 }) })),
  ).resolves.toBe(data)
})
