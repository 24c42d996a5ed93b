import { X } from 'lucide-react'
import { useState } from 'react'

import { TextField } from '../../ui/Field'
import { IconButton } from '../../ui/IconButton'
import { ErrorNote } from '../../ui/Notes'
import { useFound } from '../../ui/useFound'
import type { Writing } from './useWriting'

const KINDS = ['letter', 'review', 'session', 'submittal', 'transmittal']

/** What it speaks of, found by number or words: each of these shows the letter in return, to who may see it. */
export function SpeaksOf({ writing }: { writing: Writing }) {
  const { references, setReferences } = writing
  const [words, setWords] = useState('')
  const { things, none, error } = useFound(words, KINDS)
  const there = new Set(references.map((each) => each.target))
  const offered = things.filter((each) => !there.has(each.target))
  return (
    <div className="flex flex-col gap-1">
      {references.length > 0 && (
        <ul aria-label="It speaks of" className="flex flex-wrap gap-x-3 gap-y-1 text-list">
          {references.map((each) => (
            <li key={each.target} className="inline-flex items-center gap-1">
              <span className="code">{each.number}</span> {each.words.replace(each.number, '').trim()}
              <IconButton
                label={`Without ${each.words}`}
                icon={<X size={13} />}
                onClick={() => setReferences(references.filter((other) => other.target !== each.target))}
              />
            </li>
          ))}
        </ul>
      )}
      <TextField
        keep="passing"
        label="It speaks of"
        placeholder="A document, review, submittal, transmittal or letter, by number or words"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <ErrorNote error={error} />
      {none && <p className="text-list text-second">Nothing is called so.</p>}
      {offered.length > 0 && (
        <ul aria-label="Found" className="max-h-[180px] overflow-auto border border-line text-list">
          {offered.map((each) => (
            <li key={each.target}>
              <button
                type="button"
                className="flex w-full items-baseline gap-2 px-2 py-1 text-left hover:bg-plum-tint"
                onClick={() => {
                  setReferences([...references, { ...each, kind_words: '', address: '' }])
                  setWords('')
                }}
              >
                <span className="code">{each.number}</span>
                <span className="min-w-0 truncate">{each.words}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}
