import { describe, expect, it } from 'vitest'

import { dayAndMinutes, instantOf, lengthText, readTime, timeText } from './typedTimes'

describe('times as people type them', () => {
  it.each([
    ['9', 540],
    ['9:30', 570],
    ['930', 570],
    ['14.05', 845],
    ['14h05', 845],
    ['2 pm', 840],
    ['12am', 0],
    ['12 PM', 720],
    ['0:00', 0],
    ['23:59', 1439],
  ])('%s', (text, minutes) => expect(readTime(text)).toBe(minutes))

  it.each(['', '24', '9:60', 'noon', '13 pm', '0 am', '9:3', '99999'])('%s is none', (text) =>
    expect(readTime(text)).toBeNull(),
  )

  it('are written with two figures each', () => expect(timeText(545)).toBe('09:05'))

  it('go to an instant and back', () => {
    expect(dayAndMinutes(instantOf('2027-03-14', 570))).toEqual(['2027-03-14', 570])
  })

  it.each([
    [59, '59 min'],
    [60, '1 h'],
    [80, '1 h 20 min'],
    [25 * 60, '1 d 1 h'],
    [-1, ''],
  ])('%i minutes', (minutes, words) => expect(lengthText(0, minutes * 60_000)).toBe(words))
})
