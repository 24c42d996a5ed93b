import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'

import { Button } from './Button'
import { ChooseMany, matching } from './ChooseMany'

const CHOICES = [
  { key: 'r', words: 'Reviewer', note: 'role, 3 people' },
  { key: 't', words: 'Tallow Reed Architects', note: 'company, 2 people' },
  { key: 's', words: 'Saoirse Tanaka', note: 'TRA' },
]

function Chooser({ onChosen }: { onChosen: (chosen: string[]) => void }) {
  const [chosen, setChosen] = useState<string[]>([])
  const change = (next: string[]) => {
    setChosen(next)
    onChosen(next)
  }
  return <ChooseMany label="Tell" choices={CHOICES} chosen={chosen} onChange={change} />
}

describe('choosing many by name', () => {
  it('finds by every typed word, in name and note, without what is chosen', () => {
    const found = (words: string, ...without: string[]) =>
      matching(CHOICES, words, new Set(without)).map((each) => each.key)
    expect(found('ta')).toEqual(['t', 's'])
    expect(found('tra tan')).toEqual(['s'])
    expect(found('', 'r')).toEqual(['t', 's'])
  })

  it('is worked by keys: arrows, Enter, and Backspace for the last', async () => {
    const heard = vi.fn()
    render(<Chooser onChosen={heard} />)
    const field = screen.getByRole('combobox', { name: 'Tell' })
    await userEvent.type(field, 'ta{ArrowDown}{Enter}')
    expect(heard).toHaveBeenLastCalledWith(['s'])
    expect(field).toHaveValue('')
    await userEvent.type(field, 'revi{Enter}')
    expect(heard).toHaveBeenLastCalledWith(['s', 'r'])
    await userEvent.type(field, '{Backspace}')
    expect(heard).toHaveBeenLastCalledWith(['s'])
    await userEvent.click(screen.getByRole('button', { name: 'Without Saoirse Tanaka' }))
    expect(heard).toHaveBeenLastCalledWith([])
  })

  it('says that nobody is called so', async () => {
    render(<Chooser onChosen={vi.fn()} />)
    await userEvent.type(screen.getByRole('combobox'), 'zz')
    expect(screen.getByRole('status')).toHaveTextContent('Nobody here is called “zz”.')
  })
})

describe('a dead button', () => {
  it('can be come to, says why, and does not send its form by Enter either', async () => {
    const sent = vi.fn((event: { preventDefault: () => void }) => event.preventDefault())
    render(
      <form onSubmit={sent}>
        <input aria-label="Name" />
        <Button type="submit" why="Give it a name first.">
          Keep
        </Button>
      </form>,
    )
    const button = screen.getByRole('button', { name: 'Keep' })
    expect(button).toBeDead()
    expect(button).toHaveAccessibleDescription('Give it a name first.')
    await userEvent.click(button)
    await userEvent.type(screen.getByLabelText('Name'), 'x{Enter}')
    expect(sent).not.toHaveBeenCalled()
    await userEvent.tab()
    expect(button).toHaveFocus()
  })

  it('is alive without a reason, and waits while it is busy', async () => {
    const pressed = vi.fn()
    const { rerender } = render(
      <Button why={false} onClick={pressed}>
        Keep
      </Button>,
    )
    await userEvent.click(screen.getByRole('button'))
    expect(pressed).toHaveBeenCalledOnce()
    rerender(
      <Button busy onClick={pressed}>
        Keep
      </Button>,
    )
    expect(screen.getByRole('button')).toBeDisabled()
  })
})
