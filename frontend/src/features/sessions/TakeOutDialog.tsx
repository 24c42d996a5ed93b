import { useSeat } from '../../api/me'
import type { Session, SessionSheet } from '../../api/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextArea } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept } from '../../ui/useKept'
import { useHere } from '../../ui/useHere'
import { useSessionActs } from './useSessions'

interface Props {
  session: Session
  sheet: SessionSheet
  onClose: () => void
}

/** A sheet leaves the session and is checked in; a lead says why, and the host reads it. */
export function TakeOutDialog({ session, sheet, onClose }: Props) {
  const { me } = useSeat()
  const acts = useSessionActs(session.line.id)
  const here = useHere()
  const mine = session.line.host.id === me.person.id
  const kept = useKept('session-take-out', sheet.revision_id, sheet.number)
  const [reason, setReason] = useField(kept, 'reason', '')
  const follows = sheet.held
    ? 'It is checked in, and its next revision can be filed. The session goes on without it; what was marked stays on the sheet.'
    : 'The session goes on without it; what was marked stays on the sheet.'
  return (
    <Dialog
      open
      title={`Take ${sheet.number} out`}
      about={`${follows}${mine ? '' : ` ${session.line.host.name} is told.`}`}
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          acts.takeOut.mutate(
            { revisionId: sheet.revision_id, version: session.version, reason },
            {
              onSuccess: () => {
                kept.drop()
                here(onClose)
              },
            },
          )
        }}
      >
        <TextArea
          label={mine ? 'Why, if you want to say so' : 'Why'}
          keep={kept}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <ErrorNote error={acts.takeOut.error} />
        <Button
          look="stop"
          type="submit"
          className="self-start"
          busy={acts.takeOut.isPending}
          why={!mine && !reason.trim() && 'Say why: the host reads it.'}
        >
          Take it out
        </Button>
      </form>
    </Dialog>
  )
}
