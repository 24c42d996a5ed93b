import { describe, expect, it } from 'vitest'

import { addMonths, addWorkingDays, orderOf, readDay, weeksOf } from './typedDates'
import cases from './workingDays.cases.json'

const days = { weekdays: cases.weekdays, holidays: new Set(cases.holidays) }
const reading = { today: '2027-03-09', order: 'day first', days } as const
const american = { ...reading, order: 'month first' } as const

describe('a date as it is said', () => {
  it.each([
    ['14 Mar 2027', '2027-03-14'],
    ['14 mar', '2027-03-14'],
    ['14mar', '2027-03-14'],
    ['14 march 27', '2027-03-14'],
    ['mar 14', '2027-03-14'],
    ['March 14, 2028', '2028-03-14'],
    ['14th mar', '2027-03-14'],
    ['3 sept', '2027-09-03'],
    ['Sun 14 Mar 2027', '2027-03-14'],
    ['14.3.', '2027-03-14'],
    ['14.3', '2027-03-14'],
    ['14.03.2027', '2027-03-14'],
    ['14.3.27', '2027-03-14'],
    ['14/3', '2027-03-14'],
    ['14/3/27', '2027-03-14'],
    ['14 3 2027', '2027-03-14'],
    ['14-3-2027', '2027-03-14'],
    ['2027-03-14', '2027-03-14'],
    [' TODAY ', '2027-03-09'],
    ['tomorrow', '2027-03-10'],
    ['+5', '2027-03-16'],
    ['+ 1', '2027-03-10'],
    ['29 feb', '2028-02-29'],
  ])('%s', (text, day) => {
    expect(readDay(text, reading)).toBe(day)
  })

  it.each([
    '',
    '31.4.',
    '30 feb 2027',
    '14/14',
    '0 mar',
    '14 foo',
    '14 ma rch',
    '+',
    '+9999',
    '2027',
    'x',
    '1 mayday',
  ])('is none in “%s”', (text) => {
    expect(readDay(text, reading)).toBeNull()
  })

  it('is in the nearest year where none is said', () => {
    expect(readDay('20 dec', { ...reading, today: '2027-01-10' })).toBe('2026-12-20')
    expect(readDay('3 jan', { ...reading, today: '2027-12-20' })).toBe('2028-01-03')
  })

  it('goes by the order of the reader’s language, but for full stops', () => {
    expect(readDay('3/14', american)).toBe('2027-03-14')
    expect(readDay('3/4', american)).toBe('2027-03-04')
    expect(readDay('3/4', reading)).toBe('2027-04-03')
    expect(readDay('3.4.', american)).toBe('2027-04-03')
    expect(orderOf('en-GB')).toBe('day first')
    expect(orderOf('en-US')).toBe('month first')
  })
})

describe('working days', () => {
  it.each(cases.steps as [string, number, string][])(
    '%s and %i on is %s, as the server counts',
    (from, count, to) => {
      expect(addWorkingDays(from, count, days)).toBe(to)
    },
  )

  it('are none where nothing is ever worked', () => {
    expect(addWorkingDays('2027-03-09', 1, { weekdays: [], holidays: new Set() })).toBeNull()
  })
})

it('goes a month on, to its last day where it has no such', () => {
  expect(addMonths('2027-01-31', 1)).toBe('2027-02-28')
  expect(addMonths('2027-03-31', -1)).toBe('2027-02-28')
  expect(addMonths('2027-12-09', 1)).toBe('2028-01-09')
})

it('lays a month out in whole weeks', () => {
  const weeks = weeksOf('2027-03-14')
  expect(weeks[0]?.[0]).toBe('2027-03-01')
  expect(weeks.at(-1)?.at(-1)).toBe('2027-04-04')
  expect(weeksOf('2027-02-10')).toHaveLength(4)
})
