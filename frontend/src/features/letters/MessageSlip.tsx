import { ChevronDown, ChevronRight, Paperclip } from 'lucide-react'
import { useId, useState } from 'react'

import { download } from '../../api/download'
import { Attachments } from '../../ui/Attachments'
import { Button } from '../../ui/Button'
import { MailText } from '../../ui/MailText'
import { ErrorNote } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { useLetterActs, type Letter, type Message } from './useLetters'

interface Props {
  letter: Letter
  message: Message
  openAtFirst: boolean
}

const WAYS: Record<string, string> = { mail: 'by mail', link: 'by link' }

/** Something that was written: a one-line slip, or all of it. */
export function MessageSlip({ letter, message, openAtFirst }: Props) {
  const [open, setOpen] = useState(openAtFirst)
  const id = useId()
  const Sign = open ? ChevronDown : ChevronRight
  return (
    <li className="border-b border-line last:border-b-0">
      <button
        type="button"
        aria-expanded={open}
        aria-controls={id}
        onClick={() => setOpen(!open)}
        className="flex w-full items-baseline gap-2 bg-paper px-3 py-1.5 text-left text-list hover:bg-plum-tint"
      >
        <Sign size={13} aria-hidden className="shrink-0 self-center text-second" />
        <span className="w-[92px] shrink-0 whitespace-nowrap text-second">
          <When at={message.written_at} time />
        </span>
        <span className="shrink-0 font-semibold">
          {message.author?.name ?? message.author_name}
          {message.author_company && (
            <span className="font-normal text-second"> {message.author_company}</span>
          )}
        </span>
        {message.is_answer && <span className="shrink-0 font-semibold text-spruce">the answer</span>}
        {!open && <span className="min-w-0 truncate text-second">{message.text.slice(0, 160)}</span>}
        {message.files.length > 0 && (
          <span className="ml-auto inline-flex shrink-0 items-center gap-0.5 text-second">
            <Paperclip size={12} aria-label="files" /> {message.files.length}
          </span>
        )}
      </button>
      <div id={id} hidden={!open} className="px-4 py-3">
        {open && <Whole letter={letter} message={message} />}
      </div>
    </li>
  )
}

function Whole({ letter, message }: { letter: Letter; message: Message }) {
  const acts = useLetterActs(letter.line.id)
  const marks = letter.line.may.includes('answer') && message.place > 1 && !message.is_answer
  return (
    <article aria-label={`From ${message.author_name}`}>
      <Facts message={message} />
      {message.page && message.way === 'person' ? (
        // Cleaned on the server: words, lists, tables and links are all that is left.
        <div className="mail-page text-read break-words" dangerouslySetInnerHTML={{ __html: message.page }} />
      ) : (
        <MailText text={message.text} folds={message.folds} />
      )}
      <Attachments attachments={message.files} />
      <p className="mt-2 flex flex-wrap gap-2 empty:hidden">
        {marks && (
          <Button
            small
            busy={acts.answer.isPending}
            onClick={() => acts.answer.mutate({ version: letter.line.version, message_id: message.id })}
          >
            This is the answer
          </Button>
        )}
        {message.mail && (
          <Button small onClick={() => download(`/api/mail/${message.mail}/bytes`)}>
            The mail as it came, EML
          </Button>
        )}
      </p>
      <ErrorNote error={acts.answer.error} />
    </article>
  )
}

function Facts({ message }: { message: Message }) {
  const names = (how: string) =>
    message.to
      .filter((each) => each.how === how)
      .map((each) => (each.kind === 'company' ? each.name : `${each.name} (${each.company})`))
      .join(', ')
  return (
    <div className="mb-2 text-note text-second">
      {message.forwarded_by && (
        <p>
          Sent on by {message.forwarded_by.name}, <When at={message.sent_at} time />. From whom and when is as
          the mail says{message.author_email && `: ${message.author_email}`}.
        </p>
      )}
      <p>
        {names('to') && <>to {names('to')}</>}
        {names('copied') && <>, copied {names('copied')}</>}
        {WAYS[message.way] && ` · ${WAYS[message.way]}`}
      </p>
    </div>
  )
}
