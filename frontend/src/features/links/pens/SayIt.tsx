import { useState } from 'react'

import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { TextArea } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'

interface Props {
  /** Who sees it. */
  about: string
  onClose: () => void
  onSay: (text: string) => void
  /** It is on its way; until it is there, what was typed stays. */
  busy?: boolean
  error?: unknown
}

/** What the mark says, before it is ink that others see. */
export function SayIt({ about, onClose, onSay, busy = false, error = null }: Props) {
  const [text, setText] = useState('')
  return (
    <Dialog open title="What does it say?" about={about} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          onSay(text)
        }}
      >
        <TextArea
          keep="passing"
          label="Text"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <ErrorNote error={error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="act" type="submit" busy={busy}>
            Put it on the sheet
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
