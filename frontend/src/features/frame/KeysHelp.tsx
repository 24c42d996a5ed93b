import { useRef, useState } from 'react'

import { Dialog } from '../../ui/Dialog'
import { useBoundKeys, useKeys, type Keys } from '../../ui/keys'

const SIGNS: Record<string, string> = {
  ArrowUp: '↑',
  ArrowDown: '↓',
  ArrowLeft: '←',
  ArrowRight: '→',
  ' ': 'Space',
  Escape: 'Esc',
  '-': '−',
  PageUp: 'Page ↑',
  PageDown: 'Page ↓',
}

const signOf = (key: string) =>
  key === '+'
    ? '+'
    : key
        .split('+')
        .map((part) => SIGNS[part] ?? (part.length === 1 && key.includes('Ctrl') ? part.toUpperCase() : part))
        .join(' ')

/** The lines of a table: keys that do the same stand together. */
function linesOf(keys: Keys): [string, string][] {
  const found = new Map<string, string[]>()
  for (const [key, [words]] of Object.entries(keys))
    found.set(words, [...(found.get(words) ?? []), signOf(key)])
  return [...found].map(([words, signs]) => [signs.join(', '), words])
}

/** `?`: the keys of this screen, from the tables by which they are bound. */
export function KeysHelp() {
  const [open, setOpen] = useState(false)
  const before = useRef<Element | null>(null)
  const tables = useBoundKeys()
  useKeys(
    {
      '?': [
        'the keys of this screen',
        () => {
          before.current = document.activeElement
          setOpen(true)
        },
      ],
    },
    'anywhere',
  )
  const wheres = [...new Set(tables.map((each) => each.where))].sort(
    (a, b) => Number(a === 'anywhere') - Number(b === 'anywhere'),
  )
  return (
    <Dialog
      title="Keys"
      about="What the keyboard does on this screen"
      open={open}
      onClose={() => {
        setOpen(false)
        // Back to where one was: a list goes on from its line.
        const there = before.current
        if (there instanceof HTMLElement) setTimeout(() => there.focus())
      }}
    >
      {wheres.map((where) => (
        <section key={where} aria-label={`Keys: ${where}`} className="mb-3">
          <h3 className="mb-1 text-note font-medium text-second first-letter:uppercase">{where}</h3>
          <dl className="grid grid-cols-[120px_1fr] gap-y-1">
            {tables
              .filter((each) => each.where === where)
              .flatMap((each) => linesOf(each.keys))
              .map(([sign, words]) => (
                <div key={sign + words} className="contents">
                  <dt className="code font-bold">{sign}</dt>
                  <dd>{words}</dd>
                </div>
              ))}
          </dl>
        </section>
      ))}
    </Dialog>
  )
}
