import { expect, it } from 'vitest'

import { rememberSheets, sheetAfter } from './sheetList'

const sheet = (name: string) => ({ documentId: name, revisionId: `${name}-P01`, number: name })

it('leads along the list a sheet was opened from, and no farther', () => {
  expect(sheetAfter('a', 1)).toBeNull()
  rememberSheets(['a', 'b', 'c'].map(sheet))
  expect(sheetAfter('a', 1)).toEqual(sheet('b'))
  expect(sheetAfter('b', -1)).toEqual(sheet('a'))
  expect(sheetAfter('c', 1)).toBeNull()
  expect(sheetAfter('a', -1)).toBeNull()
  expect(sheetAfter('elsewhere', 1)).toBeNull()
})
