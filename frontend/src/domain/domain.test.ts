import { describe, expect, it } from 'vitest'

import { apply, inverse, type Affine } from './affine'
import { bytesText } from './bytes'
import { BULGE, bulges, cloudPath } from './cloudPath'
import cases from './bulges.cases.json'
import { dayOf, dayText, fullInstant, instantText } from './dates'
import { carried, rectangle } from './drawing'

const LONDON = 'Europe/London'

describe('dates', () => {
  it('leave out the present year', () => {
    expect(dayText('2027-03-14', '2027-12-31')).toBe('14 Mar')
    expect(dayText('2027-03-04', '2028-01-01')).toBe('4 Mar 2027')
  })

  it.each([
    ['2027-03-09T23:59:59.000000Z', LONDON, '2027-03-09'],
    // Summer time: an hour before midnight in UTC is the next day already.
    ['2027-06-09T23:30:00.000000Z', LONDON, '2027-06-10'],
    ['2027-06-09T23:30:00.000000Z', 'America/Lima', '2027-06-09'],
    ['2027-01-01T11:00:00Z', 'Pacific/Auckland', '2027-01-02'],
  ])('%s in %s is on %s', (instant, zone, day) => {
    expect(dayOf(instant, zone)).toBe(day)
  })

  it('tell the time of the project, and the zone on asking', () => {
    expect(instantText('2027-06-09T07:05:00Z', LONDON, '2027-06-09', true)).toBe('9 Jun, 08:05')
    expect(instantText('2027-06-09T07:05:00Z', LONDON, '2027-06-09')).toBe('9 Jun')
    expect(fullInstant('2027-06-09T07:05:00Z', LONDON)).toContain('British Summer Time')
  })
})

describe('matrices', () => {
  const turned: Affine = [0, 1, 1, 0, -20, -10]

  it('go there and back', () => {
    const there = apply(turned, [300, 140])
    expect(apply(inverse(turned), there)).toEqual([300, 140])
  })

  it('turn the page clockwise, as the server says for 90 degrees', () => {
    // The same case as in tests/core/sheet/test_geometry.py: box (10, 20)-(210, 120), turned by 90.
    expect(apply(turned, [10, 20])).toEqual([0, 0])
  })

  it('carry all points', () => {
    expect(carried([[0, 0], [2, 1]], [2, 0, 0, -2, 0, 10])).toEqual([[0, 10], [4, 8]]) // prettier-ignore
  })
})

describe('clouds', () => {
  const square = rectangle([0, 0], [100, 100])

  it('are closed and begin at the first corner', () => {
    const path = cloudPath(square)
    expect(path.startsWith('M0 0')).toBe(true)
    expect(path.endsWith('0 0Z')).toBe(true)
  })

  it('have bulges of about the same length on paper, whatever their size', () => {
    const arcs = (side: number) => cloudPath(rectangle([0, 0], [side, side])).split('A').length - 1
    expect(arcs(BULGE * 10)).toBe(40)
    expect(arcs(BULGE * 20)).toBe(80)
    expect(arcs(1)).toBe(4)
  })

  it('bulge outwards in whichever direction they were drawn', () => {
    const back = cloudPath([...square].reverse())
    expect(new Set(back.split('A').slice(1))).not.toContain('')
    expect(back.match(/ 0 0 1 /g)?.length).toBe(cloudPath(square).match(/ 0 0 1 /g)?.length)
  })

  it.each(cases)('have $bulges bulges from $from to $to, as in files', (each) => {
    const [from, to] = [each.from, each.to] as [[number, number], [number, number]]
    expect(bulges(from, to, each.arc)).toBe(each.bulges)
  })

  it('of nothing are nothing', () => expect(cloudPath([])).toBe(''))
})

it.each([
  [0, '0 B'],
  [999, '999 B'],
  [1500, '2 kB'],
  [4_200_000, '4.2 MB'],
  [1_250_000_000, '1.25 GB'],
])('%d bytes are %s', (bytes, text) => {
  expect(bytesText(bytes)).toBe(text)
})
