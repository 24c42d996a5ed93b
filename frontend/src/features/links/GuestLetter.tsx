import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Download } from 'lucide-react'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { isLost } from '../../api/fetched'
import { putFile } from '../../api/putFile'
import { bytesText } from '../../domain/bytes'
import { dayText, fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { TextArea } from '../../ui/Field'
import { FilesToSend } from '../../ui/FilesToSend'
import { IconButton } from '../../ui/IconButton'
import { Logo } from '../../ui/Logo'
import { MailText } from '../../ui/MailText'
import { ErrorNote, Loading } from '../../ui/Notes'
import { useAttachingBy, type Ways } from '../../ui/useAttaching'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { Closed, type RoomProps } from './GuestDocument'
import { asGuest, ZONE, type Entered } from './guestVisit'

type It = Schemas['GuestLetter']
type Message = It['messages'][number]

/** A thread by a link: what of it is there for its holder, and writing in it. */
export function GuestLetter({ visit, onClosed }: RoomProps) {
  const client = useQueryClient()
  const key = ['guest', 'letter', visit.guest] as const
  const found = useQuery({
    queryKey: key,
    queryFn: () => unwrapAs<It>(api.GET('/api/guest/letter', asGuest(visit))),
    retry: false,
    // The live channel is for those who are signed in.
    refetchInterval: 30_000,
  })
  if (isLost(found)) return <Closed error={found.error} onClosed={onClosed} />
  if (!found.data) return <Loading what="the letter" />
  const it = found.data
  return (
    <main className="mx-auto max-w-[860px] px-4 py-6 md:px-6 md:py-8">
      <Head it={it} />
      {it.may_write ? (
        <WriteForm visit={visit} it={it} onDone={() => client.invalidateQueries({ queryKey: key })} />
      ) : (
        <p role="status" className="mb-4 text-second">
          You can read it here, and not write in it now.
        </p>
      )}
      <ol aria-label="What was written" className="flex flex-col gap-3">
        {[...it.messages].reverse().map((each) => (
          <Written key={each.id} visit={visit} message={each} />
        ))}
      </ol>
    </main>
  )
}

function Head({ it }: { it: It }) {
  const told: [string, string][] = [
    ['Proposed answer', it.proposed],
    ['Effect on cost', it.cost_effect],
    ['Effect on time', it.time_effect],
  ]
  const names = (how: string) =>
    it.parties
      .filter((each) => each.how === how)
      .map((each) => (each.kind === 'company' ? each.name : `${each.name} (${each.company})`))
      .join(', ')
  return (
    <header className="mb-4 flex items-start justify-between gap-4">
      <div className="min-w-0">
        <p className="text-second">{it.project}</p>
        <h1 className="text-title font-semibold break-words">
          <span className="code">{it.number}</span> {it.subject}
        </h1>
        <p className="text-read">
          {it.kind_words} from {it.began_by.name} <span className="code">{it.began_by.company}</span>,{' '}
          {it.state}
        </p>
        {names('to') && <p className="text-second">To {names('to')}</p>}
        {names('copied') && <p className="text-second">Copied {names('copied')}</p>}
        <p className="text-second">You are here as {it.guest}.</p>
        {told
          .filter(([, words]) => words)
          .map(([label, words]) => (
            <p key={label} className="break-words whitespace-pre-line">
              <span className="text-second">{label}: </span>
              {words}
            </p>
          ))}
      </div>
      <Logo className="size-9 shrink-0" />
    </header>
  )
}

function waysBy(visit: Entered): Ways {
  return {
    add: (file) =>
      putFile(`/api/guest/letter/files?name=${encodeURIComponent(file.name)}`, file, asGuest(visit).headers),
    takeBack: (id) =>
      unwrap(
        api.DELETE('/api/guest/letter/files/{attachment_id}', {
          ...asGuest(visit),
          params: { path: { attachment_id: id } },
        }),
      ),
  }
}

interface FormProps {
  visit: Entered
  it: It
  onDone: () => Promise<void>
}

function WriteForm({ visit, it, onDone }: FormProps) {
  const form = useKept('guest-letter', it.id, it.number)
  const [text, setText] = useField(form, 'text', '')
  const [isAnswer, setIsAnswer] = useField(form, 'answer', it.wanted)
  const attaching = useAttachingBy(form, waysBy(visit))
  const files = attaching.there.map((each) => each.id)
  const write = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/guest/letter/write', {
            headers: { ...asGuest(visit).headers, ...more.headers },
            body: { version: it.version, text, files, is_answer: it.wanted && isAnswer },
          }),
        ),
      ),
    // Also when it was refused: it may have been done elsewhere, or before the line broke.
    onSettled: onDone,
  })
  const why = !attaching.settled
    ? 'A file is still on its way.'
    : text.trim() || files.length
      ? ''
      : 'Write something first.'
  return (
    <form
      aria-label="What you write"
      className="mb-5 flex flex-col gap-3 border-2 border-plum bg-surface p-3"
      onSubmit={(event) => {
        event.preventDefault()
        write.mutate()
      }}
    >
      {it.wanted && (
        <p className="text-head font-semibold text-plum">
          Your answer is wanted{it.due_on && ` by ${dayText(it.due_on, '')}`}
        </p>
      )}
      <TextArea
        label={it.wanted ? 'Your answer' : 'What you write'}
        keep={form}
        rows={5}
        maxLength={40_000}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <FilesToSend attaching={attaching} label="Choose files" />
      {it.wanted && (
        <Checkbox label="This is the answer that was asked for" checked={isAnswer} onChange={setIsAnswer} />
      )}
      <ErrorNote error={write.error} />
      <Button look="act" type="submit" className="self-start" busy={write.isPending} why={why}>
        Send it to all in the thread
      </Button>
    </form>
  )
}

function Written({ visit, message }: { visit: Entered; message: Message }) {
  const who = message.author?.name ?? message.author_name
  return (
    <li className="border border-line bg-surface px-4 py-3">
      <p className="mb-2 flex flex-wrap items-baseline gap-x-2 text-list">
        <span className="font-semibold">{who}</span>
        <span className="text-second">{message.author_company}</span>
        <span className="text-second">{fullInstant(message.written_at, ZONE)}</span>
        {message.is_answer && <span className="font-semibold text-spruce">the answer</span>}
        {message.forwarded_by && <span className="text-second">sent on by {message.forwarded_by.name}</span>}
      </p>
      {message.page && message.way === 'person' ? (
        <div className="mail-page text-read break-words" dangerouslySetInnerHTML={{ __html: message.page }} />
      ) : (
        <MailText text={message.text} folds={message.folds} />
      )}
      <ul aria-label="Files" className="mt-1 flex flex-col gap-1 empty:hidden">
        {message.files.map((each) => (
          <li key={each.id} className="flex items-center gap-2">
            <span className="min-w-0 break-all">{each.name}</span>
            <span className="whitespace-nowrap text-second">{bytesText(each.size_bytes)}</span>
            <IconButton
              label={`Download ${each.name}`}
              icon={<Download size={15} aria-hidden />}
              onClick={() => download(`/api/guest/letter/files/${each.id}/download`, { guest: visit.guest })}
            />
          </li>
        ))}
      </ul>
    </li>
  )
}
