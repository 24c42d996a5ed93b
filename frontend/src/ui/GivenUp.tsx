import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../api/client'
import { Button } from './Button'
import { ErrorNote } from './Notes'
import { When } from './Standing'

type Work = Schemas['GivenUp']

/** What Nod tried again and again and did not get done, with the way to have it tried once more. */
export function GivenUpNotes({ work }: { work: readonly Work[] }) {
  return work.map((each) => <Note key={each.id} work={each} />)
}

function Note({ work }: { work: Work }) {
  return (
    <div role="alert" className="mb-3 border-l-4 border-brick bg-brick-tint px-3 py-2">
      <p className="mb-1.5 text-list text-brick">
        Nod gave up {work.doing}
        {work.about && ` (${work.about})`} after {work.tries} tries, <When at={work.gave_up_at} time />.
      </p>
      <TryAgain work={work} />
    </div>
  )
}

export function TryAgain({ work }: { work: Work }) {
  const client = useQueryClient()
  const again = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/given-up/{task_id}/again', { params: { path: { task_id: work.id } } })),
    onSettled: () => client.invalidateQueries(),
  })
  return (
    <>
      <Button small busy={again.isPending} onClick={() => again.mutate()}>
        Try again
        <span className="sr-only">
          : {work.doing} {work.about}
        </span>
      </Button>
      <ErrorNote error={again.error} />
    </>
  )
}
