import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fullInstant } from '../../domain/dates'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { MailText } from '../../ui/MailText'
import { ErrorNote } from '../../ui/Notes'
import { By } from '../../ui/Said'
import { useField, useKept } from '../../ui/useKept'
import { asGuest, ZONE, type Entered } from './guestVisit'

/** Times are the reader's own here, as a guest sits in no project. */
function Words({ said }: { said: Schemas['Reply'] }) {
  return (
    <div className="mb-1.5 border-l-2 border-line pl-2">
      <p className="text-note text-second">
        <By author={said.author} /> · {fullInstant(said.at, ZONE)}
      </p>
      <MailText text={said.text} folds={said.folds} />
      {said.attachments.length > 0 && (
        <p className="text-note text-second">
          With it: {said.attachments.map((each) => each.name).join(', ')}
        </p>
      )}
    </div>
  )
}

interface Props {
  visit: Entered
  head: string
  label: string
  act: string
  /** Who reads what is said. */
  readers?: string
}

/** What is said about the thing, where the link lets its holder say something. */
export function GuestTalk({ visit, head, label, act, readers = '' }: Props) {
  const client = useQueryClient()
  const key = ['guest', 'talk', visit.guest] as const
  const form = useKept('guest-talk', visit.guest)
  const [text, setText] = useField(form, 'text', '')
  const talk = useQuery({
    queryKey: key,
    queryFn: () => unwrap(api.GET('/api/guest/talk', asGuest(visit))),
    // The live channel is for those who are signed in.
    refetchInterval: 5000,
  })
  const say = useMutation({
    mutationFn: () => unwrap(api.POST('/api/guest/talk', { body: { text }, ...asGuest(visit) })),
    onSuccess: (answer: Schemas['GuestTalk']) => {
      client.setQueryData(key, answer)
      setText('')
    },
  })
  return (
    <section aria-label="Talk" className="mt-6 max-w-[76ch]">
      <h2 className="mb-2 text-head font-semibold">{head}</h2>
      <ErrorNote error={talk.error} again={() => void talk.refetch()} />
      {talk.data?.said.length === 0 && <p className="mb-2 text-second">Nobody has said anything yet.</p>}
      {talk.data?.said.map((each) => (
        <Words key={each.id} said={each} />
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault()
          say.mutate()
        }}
      >
        <TextArea
          keep={form}
          label={label}
          value={text}
          onChange={(event) => setText(event.target.value)}
          hint={readers && <p className="mt-0.5 text-note text-second">{readers}</p>}
        />
        <ErrorNote error={say.error} />
        <Button
          className="mt-2"
          look="act"
          type="submit"
          busy={say.isPending}
          why={!text.trim() && 'Write something first.'}
        >
          {act}
        </Button>
      </form>
    </section>
  )
}
