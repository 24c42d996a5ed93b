import { describe, expect, it } from 'vitest'

import type { Point } from './affine'
import type { MarkKind } from './drawing'
import { feetAndInches, lengthWords, measuredWords, type Scale } from './measure'
import cases from './measures.cases.json'

const scales = cases.scales.map((each) => ({ box: each.box, mmPerPt: each.mm_per_pt })) as Scale[]

describe('what is measured under the hand', () => {
  it.each(cases.values)('is what the server says: $kind $metric', ({ kind, points, metric, imperial }) => {
    const words = (units: 'metric' | 'imperial') =>
      measuredWords(kind as MarkKind, points as unknown as Point[], scales, cases.paper_mm, units)
    expect([words('metric'), words('imperial')]).toEqual([metric, imperial])
  })

  it.each(cases.feet as [number, string][])('%f mm are %s', (mm, words) => {
    expect(feetAndInches(mm)).toBe(words)
  })

  it('is paper where there is no scale, and nothing for what measures nothing', () => {
    const line: Point[] = [
      [0, 0],
      [72, 0],
    ]
    expect(measuredWords('distance', line, [], cases.paper_mm, 'metric')).toBe('25.4 mm')
    expect(measuredWords('cloud', line, [], cases.paper_mm, 'metric')).toBe('')
    expect(lengthWords(25.4, 'imperial', true)).toBe('25.4 mm')
  })
})
