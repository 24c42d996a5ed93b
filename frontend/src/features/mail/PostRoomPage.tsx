import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { BounceForm } from './BounceForm'
import { OutsideForm, type Begun } from './OutsideForm'
import { isLost } from '../../api/fetched'

type Mail = Schemas['Mail']

/** The demo's mail: what left Nod, to be read as its recipients would, and answered as they would. */
export function PostRoomPage() {
  const mails = useQuery({
    queryKey: ['post-room'],
    queryFn: () => unwrap(api.GET('/api/post-room')),
    refetchInterval: 2000,
  })
  const [chosen, setChosen] = useState<string | null>(null)
  const [writing, setWriting] = useState(false)
  if (isLost(mails)) return <ErrorNote error={mails.error} again={() => void mails.refetch()} />
  if (!mails.data) return <Loading what="the mail" />
  const shown = mails.data.find((mail) => mail.id === chosen) ?? mails.data[0]
  return (
    <div className="flex h-full flex-col md:flex-row">
      <nav
        aria-label="Mail"
        className="max-h-[40%] shrink-0 overflow-auto border-b border-line md:max-h-none md:w-[400px] md:border-r md:border-b-0"
      >
        <div className="flex items-center justify-between gap-2 border-b border-line px-4 py-2">
          <h1 className="text-head font-semibold">
            Post room <span className="font-normal text-second">mail that left Nod</span>
          </h1>
          <Button small onClick={() => setWriting(true)}>
            Write from outside
          </Button>
        </div>
        {!mails.data.length && <p className="px-4 py-2 text-second">No mail has left Nod yet.</p>}
        {mails.data.map((mail) => (
          <button
            key={mail.id}
            type="button"
            aria-current={mail.id === shown?.id}
            onClick={() => {
              setChosen(mail.id)
              setWriting(false)
            }}
            className="block w-full border-b border-line/60 px-4 py-2 text-left text-list hover:bg-surface aria-current:bg-plum-tint"
          >
            <span className="flex justify-between gap-2 text-second">
              <span className="truncate">{mail.to.join(', ')}</span>
              <When at={mail.date} time />
            </span>
            <span className="block truncate font-medium">{mail.subject}</span>
          </button>
        ))}
      </nav>
      {writing ? (
        <div className="min-w-0 flex-1 overflow-auto px-4 py-5 md:px-8">
          <h2 className="mb-3 text-head font-semibold">Write to Nod from outside</h2>
          <OutsideForm begun={{}} onDone={() => setWriting(false)} />
        </div>
      ) : (
        shown && <Reading key={shown.id} mail={shown} />
      )}
    </div>
  )
}

const NO_ANSWER = 'It is about no project, so it takes no answer.'

const quoted = (text: string) =>
  text
    .split('\n')
    .map((line) => `> ${line}`)
    .join('\n')

function Reading({ mail }: { mail: Mail }) {
  const [act, setAct] = useState<'answer' | 'forward' | 'bounce' | null>(null)
  const done = () => setAct(null)
  const unanswered = !mail.answer_to && NO_ANSWER
  const from = { from_name: mail.to_name, from_email: mail.to[0] ?? '' }
  const begun: Record<'answer' | 'forward', Begun> = {
    answer: {
      ...from,
      answers: mail.id,
      to: mail.answer_to,
      subject: `Re: ${mail.subject}`,
      below: `\n\nOn ${new Date(mail.date ?? 0).toUTCString()}, Nod wrote:\n${quoted(mail.text)}`,
    },
    forward: {
      ...from,
      subject: `Fwd: ${mail.subject}`,
      below: `\n\n---------- Forwarded message ----------\n${mail.text}`,
    },
  }
  return (
    <article className="min-w-0 flex-1 overflow-auto px-4 py-5 md:px-8">
      <h2 className="text-head font-semibold break-words">{mail.subject}</h2>
      <p className="mb-2 text-second">
        to {mail.to.join(', ')}, <When at={mail.date} time />
      </p>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <Button why={unanswered} aria-expanded={act === 'answer'} onClick={() => setAct('answer')}>
          Answer
        </Button>
        <Button aria-expanded={act === 'forward'} onClick={() => setAct('forward')}>
          Forward
        </Button>
        <Button why={unanswered} aria-expanded={act === 'bounce'} onClick={() => setAct('bounce')}>
          Let it come back
        </Button>
      </div>
      {act === 'bounce' && <BounceForm mailId={mail.id} onDone={done} />}
      {(act === 'answer' || act === 'forward') && (
        <div className="mb-4">
          <OutsideForm key={act} begun={begun[act]} onDone={done} />
        </div>
      )}
      <Paper mail={mail} />
    </article>
  )
}

function Paper({ mail }: { mail: Mail }) {
  return (
    <div className="max-w-[76ch] border border-line bg-surface px-5 py-4 text-read break-words whitespace-pre-wrap">
      <Linked text={mail.text} />
      {mail.files.length > 0 && (
        <p className="mt-3 border-t border-line pt-2 text-list">
          <span className="text-second">With it: </span>
          {mail.files.join(', ')}
        </p>
      )}
    </div>
  )
}

/** Addresses in the text can be followed, like in a mail program; only those of http and https. */
function Linked({ text }: { text: string }) {
  return text.split(/(https?:\/\/\S+)/).map((part, place) =>
    part.startsWith('http') ? (
      <a key={place} href={part} className="break-all text-plum underline">
        {part}
      </a>
    ) : (
      part
    ),
  )
}
