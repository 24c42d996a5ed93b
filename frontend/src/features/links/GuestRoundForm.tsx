import { useMutation } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { putFile } from '../../api/putFile'
import { dayText } from '../../domain/dates'
import { filesWhy } from '../../domain/filesWhy'
import { Button } from '../../ui/Button'
import { TextArea } from '../../ui/Field'
import { FilesToSend } from '../../ui/FilesToSend'
import { AnswerVerdict, useVerdict } from '../../ui/AnswerVerdict'
import { ErrorNote } from '../../ui/Notes'
import { useAttachingBy, type Ways } from '../../ui/useAttaching'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { asGuest, type Entered } from './guestVisit'

type It = Schemas['GuestSubmittal']

interface Props {
  visit: Entered
  it: It
  onDone: () => Promise<void>
}

function waysBy(visit: Entered): Ways {
  return {
    add: (file) =>
      putFile(
        `/api/guest/submittal/files?name=${encodeURIComponent(file.name)}`,
        file,
        asGuest(visit).headers,
      ),
    takeBack: (id) =>
      unwrap(
        api.DELETE('/api/guest/submittal/files/{attachment_id}', {
          ...asGuest(visit),
          params: { path: { attachment_id: id } },
        }),
      ),
  }
}

function useRound({ visit, it, onDone }: Props) {
  const form = useKept('guest-submittal', `${it.id} ${it.wanted} ${it.revision}`, it.number)
  const [note, setNote] = useField(form, 'note', '')
  const choosing = useVerdict(form, it)
  const attaching = useAttachingBy(form, waysBy(visit))
  const files = attaching.there.map((each) => each.id)
  const said = { version: it.version, note, files }
  const send = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) => {
        const headers = { ...asGuest(visit).headers, ...more.headers }
        return it.wanted === 'answer'
          ? unwrap(api.POST('/api/guest/submittal/answer', { headers, body: { ...said, ...choosing.said } }))
          : unwrap(api.POST('/api/guest/submittal/send-in', { headers, body: said }))
      }),
    // Also when it was refused: it may have been done elsewhere, or before the line broke.
    onSettled: onDone,
  })
  return { form, note, setNote, choosing, attaching, send }
}

/** Sends in what is asked for, or answers it: with files, and for an answer with a verdict. */
export function GuestRoundForm(props: Props) {
  const { it } = props
  const round = useRound(props)
  const answers = it.wanted === 'answer'
  const files = filesWhy(round.attaching, answers ? 'Attach what you answer.' : 'Attach what you send in.')
  return (
    <form
      aria-label={answers ? 'Your answer' : 'What you send in'}
      className="mb-5 flex max-w-[76ch] flex-col gap-3 border-2 border-plum bg-surface p-3"
      onSubmit={(event) => {
        event.preventDefault()
        round.send.mutate()
      }}
    >
      <Asked it={it} />
      {answers && <Verdict it={it} round={round} />}
      <FilesToSend attaching={round.attaching} label="Choose files" />
      <TextArea
        label="A note"
        keep={round.form}
        rows={2}
        value={round.note}
        onChange={(event) => round.setNote(event.target.value)}
      />
      <ErrorNote error={round.send.error} />
      <Button
        look="act"
        type="submit"
        className="self-start"
        busy={round.send.isPending}
        why={answers && !round.choosing.chosen ? 'Choose a verdict.' : files}
      >
        {answers ? 'Answer' : 'Send it in'}
      </Button>
    </form>
  )
}

function Asked({ it }: { it: It }) {
  const by = it.due_on ? ` by ${dayText(it.due_on, '')}` : ''
  return (
    <p className="text-head font-semibold text-plum">
      {it.wanted === 'answer' ? `Your answer is wanted${by}` : `To be sent in${by}`}
      {it.revision > 0 && `, as revision ${it.revision}`}
    </p>
  )
}

function Verdict({ it, round }: { it: It; round: ReturnType<typeof useRound> }) {
  const anew = round.choosing.chosen?.needs_new_revision
  return (
    <div className="flex flex-col gap-1">
      <AnswerVerdict name={it.id} choosing={round.choosing} />
      <p className="text-note text-second">
        {it.verdicts.map((each) => `${each.code} ${each.words}`).join(' · ')}
      </p>
      {anew && <p className="text-list text-second">It is asked for again at once, as the next revision.</p>}
    </div>
  )
}
