import { useMutation } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'

interface Props {
  revisions: readonly string[]
  onSaid: (said: Schemas['MatrixSays']) => void
}

/** Fills in recipients, copies and purpose as the distribution matrix has it for these documents. */
export function AskMatrix({ revisions, onSaid }: Props) {
  const { project } = useSeat()
  const ask = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/transmittals/by-matrix', {
          body: { project_id: project.id, revisions: [...revisions] },
        }),
      ),
    onSuccess: (said) => {
      if (said.lines.length) onSaid(said)
    },
  })
  return (
    <div className="mb-1">
      <Button
        small
        busy={ask.isPending}
        why={revisions.length ? '' : 'Add a document first.'}
        onClick={() => ask.mutate()}
      >
        As the matrix says
      </Button>
      <ErrorNote error={ask.error} />
      {ask.data && (
        <p role="status" className="mt-0.5 text-note text-second">
          {saidWords(ask.data)}
        </p>
      )}
    </div>
  )
}

function saidWords({ lines, people, copied, uncovered }: Schemas['MatrixSays']): string {
  if (!lines.length) return 'The distribution matrix says nothing of these documents.'
  if (!people.length && !copied.length) return 'By the matrix nobody is to get these documents.'
  const rest = uncovered ? ` It says nothing of ${counted(uncovered, 'document')}.` : ''
  return `By ${lines.join('; ')}: ${people.length} to act, ${copied.length} to know.${rest}`
}
