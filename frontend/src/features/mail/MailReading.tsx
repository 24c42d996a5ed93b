import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { fetchAnew } from '../../api/keys'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { MailText } from '../../ui/MailText'
import { ErrorNote, Loading } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { ThingLink } from '../../ui/ThingLink'
import { FileDialog } from './FileDialog'
import { stateWords } from './mailWords'
import { SenderDialog } from './SenderDialog'
import { isLost } from '../../api/fetched'

type Read = Schemas['MailRead']

/** A mail that came in: who sent it, what it says, why it is held, and what can be done with it. */
export function MailReading({ mailId }: { mailId: string }) {
  const mail = useQuery({
    queryKey: ['mail', mailId],
    queryFn: () => unwrap(api.GET('/api/mail/{mail_id}', { params: { path: { mail_id: mailId } } })),
    refetchInterval: (query) => (query.state.data?.line.state === 'new' ? 1000 : false),
  })
  if (!mail.data)
    return (
      <div className="min-w-0 flex-1 p-4">
        {isLost(mail) ? (
          <ErrorNote error={mail.error} again={() => void mail.refetch()} />
        ) : (
          <Loading what="the mail" />
        )}
      </div>
    )
  const { line } = mail.data
  return (
    <article aria-label={line.subject || 'Mail'} className="min-w-0 flex-1 overflow-auto px-4 py-4 md:px-8">
      <h2 className="text-head font-semibold break-words">{line.subject || 'no subject'}</h2>
      <p className="text-list break-words text-second">
        from <span className="text-ink">{line.from_name}</span> {line.from_email}
        {mail.data.to.length > 0 && <>, to {mail.data.to.join(', ')}</>}
      </p>
      <p className="mb-3 text-list text-second">
        came <When at={line.arrived_at} time />
        {mail.data.sent_at && (
          <>
            , written <When at={mail.data.sent_at} time />
          </>
        )}{' '}
        · {bytesText(mail.data.size_bytes)}
      </p>
      {line.state === 'held' ? <Held mail={mail.data} /> : <Became mail={mail.data} />}
      <Content mail={mail.data} />
    </article>
  )
}

function Content({ mail }: { mail: Read }) {
  const [asPage, setAsPage] = useState(false)
  return (
    <div className="max-w-[700px] border border-line bg-surface px-5 py-4">
      {asPage ? (
        // Cleaned on the server: words, lists, tables and links are all that is left.
        <div className="mail-page text-read break-words" dangerouslySetInnerHTML={{ __html: mail.page }} />
      ) : (
        <MailText text={mail.text} folds={mail.folds} />
      )}
      {!mail.text && !mail.page && !mail.fault && <p className="text-second">It says nothing.</p>}
      {mail.fault && <p className="text-brick">{mail.fault} The bytes are kept as they came.</p>}
      {mail.names.length > 0 && (
        <p className="mt-3 border-t border-line pt-2 text-list">
          <span className="text-second">With it: </span>
          {mail.names.join(', ')}
        </p>
      )}
      <p className="mt-3 flex flex-wrap gap-2">
        {mail.page && (
          <Button small aria-pressed={asPage} onClick={() => setAsPage(!asPage)}>
            {asPage ? 'As plain text' : 'As it was laid out'}
          </Button>
        )}
        <Button small onClick={() => download(`/api/mail/${mail.line.id}/bytes`)}>
          The mail as it came, EML
        </Button>
      </p>
      <p className="mt-2 text-fine break-all text-second">
        SHA-256 <span className="code">{mail.sha256}</span>
      </p>
    </div>
  )
}

function Became({ mail }: { mail: Read }) {
  const { line } = mail
  return (
    <div className="mb-3 flex max-w-[700px] flex-wrap items-center justify-between gap-3 bg-surface px-3 py-2 text-list">
      <p>
        {(line.state === 'answer' || line.state === 'begun') && line.thing ? (
          <>
            {line.state === 'begun' ? 'Filed as' : 'Handed on to'} <ThingLink thing={line.thing} />
          </>
        ) : (
          `${stateWords(line).charAt(0).toUpperCase()}${stateWords(line).slice(1)}`
        )}
        {line.why && (line.state === 'let_go' ? `. It was held: ${line.why}` : `: ${line.why}`)}
        {mail.decided_by && (
          <span className="text-second">
            {' '}
            · {mail.decided_by.name}, <When at={mail.decided_at} time />
          </span>
        )}
      </p>
      {line.state === 'let_go' && <HoldAgain mail={mail} />}
    </div>
  )
}

function HoldAgain({ mail }: { mail: Read }) {
  const client = useQueryClient()
  const hold = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/mail/{mail_id}/hold-again', {
          params: { path: { mail_id: mail.line.id } },
          body: { version: mail.version },
        }),
      ),
    onSettled: () => fetchAnew(client, ['mailbox', 'mail', 'desk']),
  })
  return (
    <>
      <Button small busy={hold.isPending} onClick={() => hold.mutate()}>
        Hold it again
      </Button>
      <ErrorNote error={hold.error} />
    </>
  )
}

function Held({ mail }: { mail: Read }) {
  const client = useQueryClient()
  const [open, setOpen] = useState<'file' | 'sender' | null>(null)
  const go = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/mail/{mail_id}/let-go', {
          params: { path: { mail_id: mail.line.id } },
          body: { version: mail.version, why: '' },
        }),
      ),
    onSettled: () => fetchAnew(client, ['mailbox', 'mail', 'desk']),
  })
  const navigate = useNavigate()
  const { tab } = useSearch({ from: '/frame/mail' })
  // It stays on the screen when it has left the list, so that one sees what became of it.
  const stay = () => void navigate({ to: '/mail', search: { tab, mail: mail.line.id }, replace: true })
  const begin = (next: 'file' | 'sender') => {
    stay()
    setOpen(next)
  }
  const close = () => setOpen(null)
  return (
    <section aria-label="Held" className="mb-3 max-w-[700px] border border-brick px-3 py-2">
      <p className="mb-2">
        <span className="font-semibold text-brick">Held.</span> {mail.line.why}{' '}
        <span className="text-second">Its sender has not been told anything.</span>
      </p>
      <div className="flex flex-wrap gap-2">
        <Button look="act" onClick={() => begin('file')}>
          File it with …
        </Button>
        {!mail.sender_known && mail.line.from_email && (
          <Button onClick={() => begin('sender')}>Add its sender …</Button>
        )}
        <Button
          busy={go.isPending}
          onClick={() => {
            stay()
            go.mutate()
          }}
        >
          Let it go
        </Button>
      </div>
      <ErrorNote error={go.error} />
      {open === 'file' && <FileDialog mail={mail} onClose={close} />}
      {open === 'sender' && <SenderDialog mail={mail} onClose={close} />}
    </section>
  )
}
