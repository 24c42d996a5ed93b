import { expect, test } from 'vitest'

import { addressIn, pathIn, projectIn, thingIn } from './projectPath'

test.each([
  ['/p/BFT/register?words=quay', 'BFT', '/register?words=quay'],
  ['/p/BFT', 'BFT', '/'],
  ['/p/BFT/', 'BFT', '/'],
  ['/p/BFT?x=1', 'BFT', '/?x=1'],
  ['/p/A%20B/sheet/x', 'A B', '/sheet/x'],
  ['/register', null, '/register'],
  ['/', null, '/'],
  ['/p/', null, '/p/'],
  ['/people/p/BFT', null, '/people/p/BFT'],
])('%s', (address, number, path) => {
  expect(projectIn(address)).toBe(number)
  expect(pathIn(address)).toBe(path)
})

test.each([
  ['BFT', '/register?words=quay', '/p/BFT/register?words=quay'],
  ['A B', '/', '/p/A%20B/'],
  [null, '/register', '/register'],
  ['BFT', '/sign-in?next=%2F', '/sign-in?next=%2F'],
  ['BFT', '/k/token', '/k/token'],
  ['BFT', '/check', '/check'],
  ['BFT', '/intake', '/p/BFT/intake'],
])('in %s, %s', (number, path, address) => {
  expect(addressIn(number, path)).toBe(address)
})

test.each([
  ['/sheet/abcdefghij234567?page=1', 'abcdefghij234567'],
  ['/register?document=abcdefghij234567&tab=talk', 'abcdefghij234567'],
  ['/intake/abcdefghij234567/reader', 'abcdefghij234567'],
  ['/register?words=quay', null],
  ['/sheet/abcdefghij2345678', null],
  ['/', null],
])('what %s shows', (address, id) => {
  expect(thingIn(address)).toBe(id)
})
