import { useState } from 'react'

import { Button } from '../../../ui/Button'
import { Select } from '../../../ui/Field'
import { useSheet } from '../sheetContext'
import type { Mark } from './useMarks'
import { EVERYBODY, readersKey, readersWords } from './useReaders'

/** Ink that some read is opened to more, and never closed again: what will happen is said before the second press. */
export function OpenToMore({ mark }: { mark: Mark }) {
  const { marks } = useSheet()
  const [to, setTo] = useState(readersKey(EVERYBODY))
  const [sure, setSure] = useState(false)
  const { openTo } = marks.service
  const read = new Set(mark.readers.map(readersKey))
  const more = marks.readers.all.filter((each) => !read.has(readersKey(each)))
  const chosen = more.find((each) => readersKey(each) === to) ?? EVERYBODY
  const words = readersWords(chosen)
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 text-list">
      <Select
        label="Open it to"
        value={readersKey(chosen)}
        onChange={(next) => {
          setTo(next)
          setSure(false)
        }}
        choices={more.map((each) => ({ code: readersKey(each), words: readersWords(each) }))}
      />
      <Button
        small
        look={sure ? 'act' : 'quiet'}
        busy={openTo.isPending}
        onClick={() => (sure ? openTo.mutate({ mark, readers: chosen }) : setSure(true))}
      >
        {sure ? 'Yes, for good' : 'Let them read it'}
      </Button>
      {sure && (
        <p role="status" className="w-full text-note text-ochre">
          It and what was answered to it will be read by {words}, for good.
        </p>
      )}
    </div>
  )
}
