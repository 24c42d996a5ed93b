import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'

type Mail = Schemas['Mail']

/** The demo's mail: what left Nod, to be read as its recipients would. */
export function PostRoomPage() {
  const mails = useQuery({
    queryKey: ['post-room'],
    queryFn: () => unwrap(api.GET('/api/post-room')),
    refetchInterval: 2000,
  })
  const [chosen, setChosen] = useState<string | null>(null)
  if (mails.error) return <ErrorNote error={mails.error} />
  if (!mails.data) return <Loading what="the mail" />
  if (!mails.data.length) return <Empty>No mail has left Nod yet.</Empty>
  const shown = mails.data.find((mail) => mail.id === chosen) ?? mails.data[0]
  return (
    <div className="flex h-full">
      <nav aria-label="Mail" className="w-[440px] shrink-0 overflow-auto border-r border-line">
        <h1 className="border-b border-line px-4 py-2.5 text-[16px] font-semibold">
          Post room <span className="font-normal text-second">mail that left Nod</span>
        </h1>
        {mails.data.map((mail) => (
          <button
            key={mail.id}
            type="button"
            aria-current={mail.id === shown?.id}
            onClick={() => setChosen(mail.id)}
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
      {shown && <Reading mail={shown} />}
    </div>
  )
}

function Reading({ mail }: { mail: Mail }) {
  return (
    <article className="min-w-0 flex-1 overflow-auto px-8 py-5">
      <h2 className="text-[17px] font-semibold">{mail.subject}</h2>
      <p className="mb-4 text-second">
        to {mail.to.join(', ')}, <When at={mail.date} time />
      </p>
      <div className="max-w-[76ch] border border-line bg-surface px-5 py-4 text-read whitespace-pre-wrap">
        <Linked text={mail.text} />
      </div>
    </article>
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
