import { useRouterState } from '@tanstack/react-router'
import { useState } from 'react'

import { Dialog } from '../../ui/Dialog'
import { useKeys } from '../../ui/keys'

const ANYWHERE = [
  ['Ctrl K', 'find anything'],
  ['?', 'the keys of this screen'],
  ['Esc', 'shut the panel, put the pen down'],
] as const

const LISTS = [
  ['↑ ↓', 'move in the list'],
  ['Space', 'open the dossier'],
  ['Enter', 'go there'],
  ['x', 'mark the line, Shift for a range'],
  ['.', 'the acts for what is marked'],
] as const

const SHEET = [
  ['1 2', 'take the cloud or the pin'],
  ['Enter', 'with a pen: place it in the middle of the view'],
  ['arrows', 'move the mark chosen, if it is yours; Shift for larger steps'],
  ['p', 'ink your pencil marks'],
  ['f', 'fit the sheet'],
  ['[ ]', 'older and newer revision'],
  ['+ −', 'nearer and farther'],
  ['Delete', 'take the mark chosen away'],
] as const

const GRID = [
  ['arrows', 'move in the grid, with Shift select'],
  ['Ctrl A', 'select everything'],
  ['Enter', 'open the folder: make, rename, move, remove'],
  ['0 to 4', 'none, read, mark, file, keep'],
  ['Delete', 'set nothing here: what is above comes through'],
] as const

/** `?`: the keys of this screen. */
export function KeysHelp() {
  const [open, setOpen] = useState(false)
  const address = useRouterState({ select: (state) => state.location.pathname })
  useKeys({ '?': () => setOpen(true) })
  const own = address.startsWith('/sheet') ? SHEET : address === '/setup/access' ? GRID : LISTS
  const keys = [...ANYWHERE, ...own]
  return (
    <Dialog
      title="Keys"
      about="What the keyboard does on this screen"
      open={open}
      onClose={() => setOpen(false)}
    >
      <dl className="grid grid-cols-[90px_1fr] gap-y-1.5">
        {keys.map(([key, words]) => (
          <div key={key} className="contents">
            <dt className="code font-bold">{key}</dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  )
}
