import { ChevronDown, ChevronRight, Paperclip } from 'lucide-react'
import { useId, useState } from 'react'

import { download } from '../../api/download'
import { dayText } from '../../domain/dates'
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

const WAYS: Record<string, string> = { mail: 'by mail', link: 'by link', paper: 'on paper' }

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
        <Button small onClick={() => download(`/api/letters/messages/${message.id}/eml`)}>
          {message.mail ? 'The mail as it came, EML' : 'EML'}
        </Button>
      </p>
      <ErrorNote error={acts.answer.error} />
    </article>
  )
}

function spareWords(days: number): string {
  if (days === 0) return 'on the last day of its time bar'
  return days > 0 ? `${days} d before its time bar` : `${-days} d after its time bar`
}

function Checked({ message }: { message: Message }) {
  if (message.signatory) return <p>Signed by {message.signatory}.</p>
  if (message.looked_at_by) return <p>{message.looked_at_by.name} looked at it before it went.</p>
  return null
}

function Facts({ message }: { message: Message }) {
  return (
    <div className="mb-2 text-note text-second">
      <Came message={message} />
      <Named message={message} />
      <References message={message} />
      {message.served_on && (
        <p>
          Served {message.served_how} on {dayText(message.served_on, '')}
          {message.spare_days !== null && `, ${spareWords(message.spare_days)}`}.
        </p>
      )}
      <Checked message={message} />
    </div>
  )
}

/** What did not come straight from whoever wrote it: when they did, and who put it in. */
function Came({ message }: { message: Message }) {
  if (!message.forwarded_by) return null
  if (message.way === 'paper' && message.dated_on && message.received_on)
    return (
      <p>
        On paper of {dayText(message.dated_on, '')}, came on {dayText(message.received_on, '')}, put in by{' '}
        {message.forwarded_by.name}.
      </p>
    )
  return (
    <p>
      Sent on by {message.forwarded_by.name}, <When at={message.sent_at} time />. From whom and when is as the
      mail says{message.author_email && `: ${message.author_email}`}.
    </p>
  )
}

function Named({ message }: { message: Message }) {
  const names = (how: string) =>
    message.to
      .filter((each) => each.how === how)
      .map((each) => (each.kind === 'company' ? each.name : `${each.name} (${each.company})`))
      .join(', ')
  return (
    <p>
      {names('to') && <>to {names('to')}</>}
      {names('copied') && <>, copied {names('copied')}</>}
      {WAYS[message.way] && ` · ${WAYS[message.way]}`}
    </p>
  )
}

function References({ message }: { message: Message }) {
  const told = [
    message.own_ref && `reference ${message.own_ref}`,
    message.other_ref && `yours ${message.other_ref}`,
  ]
  const there = told.filter(Boolean)
  return there.length ? <p>{there.join(', ')}</p> : null
}
