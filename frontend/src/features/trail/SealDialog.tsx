import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { ErrorNote, Loading } from '../../ui/Notes'

type Seal = Schemas['SealShown']

/** The signed head of the trail: to be handed to the other companies, who can prove with it that nothing was rewritten. */
export function SealDialog({ onClose }: { onClose: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const latest = useQuery({
    queryKey: ['trail', 'seal', project.id],
    queryFn: () => unwrap(api.GET('/api/audit/seal', { params: { query: { project_id: project.id } } })),
  })
  const now = useMutation({
    mutationFn: () => unwrap(api.POST('/api/audit/seal', { body: { project_id: project.id } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['trail', 'seal'] }),
  })
  return (
    <Dialog
      title="Seal of the trail"
      about="Made every hour, and on every cover sheet. Whoever keeps it can prove later that nothing before it was altered."
      open
      wide
      onClose={onClose}
    >
      <div className="flex flex-col gap-4">
        <ErrorNote error={latest.error ?? now.error} again={() => void latest.refetch()} />
        {latest.isPending && <Loading what="the latest seal" />}
        {latest.data && !latest.data.seal && <p>No seal has been made yet.</p>}
        {latest.data?.seal && <Shown seal={latest.data.seal} />}
        <div className="flex items-center justify-between gap-3">
          <Link to="/check" className="text-plum underline">
            Check a proof
          </Link>
          <Button look="act" busy={now.isPending} onClick={() => now.mutate()}>
            Seal now
          </Button>
        </div>
      </div>
    </Dialog>
  )
}

function Shown({ seal }: { seal: Seal }) {
  return (
    <>
      <Copied title={`The seal over ${seal.size.toLocaleString('en-GB')} entries`} text={seal.note} />
      <Copied title="The key that it is checked with" text={seal.key} />
    </>
  )
}

function Copied({ title, text }: { title: string; text: string }) {
  return (
    <section aria-label={title}>
      <div className="mb-1 flex items-center justify-between gap-3">
        <h3 className="text-list font-semibold">{title}</h3>
        <Button small onClick={() => void navigator.clipboard.writeText(text)}>
          Copy<span className="sr-only"> {title}</span>
        </Button>
      </div>
      <pre className="code overflow-x-auto border border-line bg-ground px-3 py-2 text-note break-all whitespace-pre-wrap">
        {text.trim()}
      </pre>
    </section>
  )
}
