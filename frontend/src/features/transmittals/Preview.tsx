import { useState } from 'react'

import type { Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { ErrorNote, Loading } from '../../ui/Notes'
import { usePreview } from './useSending'
import type { DraftContent } from './useTransmittals'

interface Props {
  typed: DraftContent
  draft: Schemas['DraftLine'] | undefined
}

/** The mail and the cover sheet as they would go out, looked at before. */
export function Preview({ typed, draft }: Props) {
  const [open, setOpen] = useState(false)
  const { mail, cover } = usePreview(typed, draft)
  const show = () => {
    setOpen(true)
    mail.mutate()
    cover.mutate()
  }
  const shut = () => {
    setOpen(false)
    if (cover.data) URL.revokeObjectURL(cover.data)
  }
  return (
    <>
      <Button why={reasonNot(typed)} onClick={show}>
        See it first
      </Button>
      {open && (
        <Dialog
          open
          wide
          title={mail.data ? `${mail.data.number}, not sent yet` : 'Not sent yet'}
          about="What would go out now. The number is this one if nobody of your company sends before you."
          onClose={shut}
        >
          <div className="flex flex-col gap-3">
            <ErrorNote error={mail.error ?? cover.error} />
            {mail.isPending && <Loading what="the mail" />}
            {mail.data && <Mail mail={mail.data} />}
            <div className="flex flex-wrap items-center justify-end gap-2">
              {cover.data && mail.data && (
                <a
                  href={cover.data}
                  download={`${mail.data.number} cover, not sent.pdf`}
                  className="inline-flex min-h-6 items-center text-plum underline"
                >
                  Cover sheet, PDF
                </a>
              )}
              <Button onClick={shut}>Back to the form</Button>
            </div>
          </div>
        </Dialog>
      )}
    </>
  )
}

function Mail({ mail }: { mail: Schemas['SendingPreview'] }) {
  return (
    <>
      <Letter to={mail.to} subject={mail.subject} text={mail.text} />
      {mail.copy_text && <Letter to={mail.copied} subject={mail.subject} text={mail.copy_text} />}
    </>
  )
}

function Letter({ to, subject, text }: { to: readonly string[]; subject: string; text: string }) {
  return (
    <section aria-label={`The mail to ${to.join(', ')}`} className="border border-line bg-paper px-3 py-2">
      <p className="text-list text-second">To {to.join(', ')}, each by themselves</p>
      <p className="font-semibold">{subject}</p>
      <p className="mt-1 text-list whitespace-pre-wrap">{text}</p>
    </section>
  )
}

export function reasonNot({ revisions = [], people = [] }: DraftContent) {
  if (!revisions.length) return 'Add a document first.'
  return !people.length && 'Choose who receives it first.'
}
