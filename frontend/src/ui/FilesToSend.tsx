import { Paperclip } from 'lucide-react'
import { useRef } from 'react'

import { AttachedDraft } from './Attachments'
import { Button } from './Button'
import type { Attaching } from './useAttaching'

/** Files to choose or drop for what is about to be sent, and those that are there or on their way. */
export function FilesToSend({ attaching, label }: { attaching: Attaching; label: string }) {
  const chooser = useRef<HTMLInputElement>(null)
  return (
    <div
      className="flex flex-col gap-2"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        attaching.add(event.dataTransfer.files)
      }}
    >
      <span className="flex items-center gap-2">
        <Button small onClick={() => chooser.current?.click()}>
          <Paperclip size={14} aria-hidden /> {label}
        </Button>
        <span className="text-note text-second max-md:hidden">or drop them here</span>
      </span>
      <input
        ref={chooser}
        type="file"
        multiple
        hidden
        aria-label={label}
        onChange={(event) => {
          attaching.add(event.target.files ?? [])
          event.target.value = ''
        }}
      />
      <AttachedDraft attaching={attaching} />
    </div>
  )
}
