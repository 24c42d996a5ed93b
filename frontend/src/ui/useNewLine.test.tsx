import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { expect, it } from 'vitest'

import { useNewLine } from './useNewLine'

function List() {
  const [lines, setLines] = useState(['one', 'two'])
  const { list, added } = useNewLine<HTMLUListElement>()
  return (
    <>
      <ul ref={list}>
        {lines.map((line, place) => (
          <li key={place}>
            <button type="button">Take {place} away</button>
            <input aria-label={`Line ${place}`} defaultValue={line} />
            <input aria-label={`More of ${place}`} />
          </li>
        ))}
      </ul>
      <button
        type="button"
        onClick={() => {
          added()
          setLines([...lines, ''])
        }}
      >
        Add a line
      </button>
    </>
  )
}

it('a line that is added is seen and takes what is typed', async () => {
  render(<List />)
  await userEvent.click(screen.getByText('Add a line'))
  expect(screen.getByLabelText('Line 2')).toHaveFocus()
  await userEvent.keyboard('three')
  expect(screen.getByLabelText('Line 2')).toHaveValue('three')
  await userEvent.click(screen.getByLabelText('Line 0'))
  expect(screen.getByLabelText('Line 0')).toHaveFocus()
})
