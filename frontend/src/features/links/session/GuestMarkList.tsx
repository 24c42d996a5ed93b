import { useState } from 'react'

import type { Schemas } from '../../../api/client'
import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { Select, TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { By } from '../../../ui/Said'
import type { GuestActs, GuestMark, MarkState } from './useGuestRoom'

const STATES = [
  { code: 'open', words: 'Open' },
  { code: 'agreed', words: 'Agreed' },
  { code: 'declined', words: 'Declined' },
  { code: 'done', words: 'Done' },
  { code: 'dropped', words: 'Dropped' },
]

interface Props {
  marks: readonly GuestMark[]
  chosen: string
  onChoose: (mark: Schemas['Mark']) => void
  acts: GuestActs
  allows: readonly string[]
}

/** The session's marks on the sheet, with what is said about them. */
export function GuestMarkList({ marks, chosen, onChoose, acts, allows }: Props) {
  return (
    <section aria-label="Marks">
      <p className="px-3 py-1.5 text-second">
        {marks.length
          ? `${counted(marks.length, 'mark')} of this session`
          : 'Nobody has marked this sheet yet.'}
      </p>
      {marks.map((each) => (
        <Item
          key={each.mark.id}
          item={each}
          open={each.mark.id === chosen}
          onChoose={onChoose}
          acts={acts}
          mayReply={allows.includes('reply') || allows.includes('mark')}
        />
      ))}
    </section>
  )
}

interface ItemProps {
  item: GuestMark
  open: boolean
  onChoose: (mark: Schemas['Mark']) => void
  acts: GuestActs
  mayReply: boolean
}

function Item({ item, open, onChoose, acts, mayReply }: ItemProps) {
  const { mark, mine } = item
  return (
    <article aria-current={open} className={`border-t border-line ${open ? 'bg-plum-tint' : ''}`}>
      <button
        type="button"
        aria-expanded={open}
        className="block min-h-11 w-full px-3 py-1.5 text-left"
        onClick={() => onChoose(mark)}
      >
        <span className="flex justify-between gap-2 text-note text-second">
          <span>
            <By author={mark.author} />
            {mark.pin_number !== null && ` · pin ${mark.pin_number}`}
          </span>
          <span className="font-semibold">{STATES.find((each) => each.code === mark.state)?.words}</span>
        </span>
        {mark.text || <i className="text-second">no text</i>}
      </button>
      {open && (
        <div className="flex flex-col gap-2 px-3 pb-3">
          {mark.replies.map((reply) => (
            <div key={reply.id} className="border-l-2 border-line pl-2">
              <p className="text-note text-second">
                <By author={reply.author} />
              </p>
              <p className="whitespace-pre-line">{reply.text}</p>
            </div>
          ))}
          {mayReply && <Answering key={mark.id} mark={mark} acts={acts} />}
          {mine && (
            <Button
              small
              look="stop"
              className="self-start"
              busy={acts.remove.isPending}
              onClick={() => acts.remove.mutate(mark)}
            >
              Take it away
            </Button>
          )}
        </div>
      )}
    </article>
  )
}

function Answering({ mark, acts }: { mark: Schemas['Mark']; acts: GuestActs }) {
  const [text, setText] = useState('')
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (text.trim()) acts.reply.mutate({ mark, text }, { onSuccess: () => setText('') })
      }}
    >
      <TextArea
        keep="passing"
        label="Your answer"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <div className="flex flex-wrap items-end gap-2">
        <Button
          look="act"
          small
          type="submit"
          busy={acts.reply.isPending}
          why={!text.trim() && 'Write something first.'}
        >
          Answer
        </Button>
        <Select
          label="It is"
          value={mark.state}
          onChange={(state) => acts.setState.mutate({ mark, state: state as MarkState })}
          choices={STATES}
        />
      </div>
      <ErrorNote error={acts.reply.error ?? acts.setState.error} />
    </form>
  )
}
