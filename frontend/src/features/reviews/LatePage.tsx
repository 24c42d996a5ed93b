import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { Day, When } from '../../ui/Standing'
import { Pace } from './Pace'
import { useSettled } from './useReviews'

type Lateness = Schemas['Lateness']
type LateStep = Schemas['LateStep']

/** What is late, by company and by how much; how long each takes to answer; and reminding many in one act. */
export function LatePage() {
  const { project } = useSeat()
  const late = useQuery({
    queryKey: ['reviews', project.id, 'late'],
    queryFn: () => unwrap(api.GET('/api/reviews/late', { params: { query: { project_id: project.id } } })),
  })
  return (
    <div className="h-full overflow-auto px-6 py-4">
      <h1 className="mb-3 flex items-baseline gap-4 text-title font-semibold">
        Late, by company
        <Link
          to="/reviews"
          className="inline-flex min-h-6 items-center text-list font-normal text-plum underline"
        >
          Reviews
        </Link>
      </h1>
      {isLost(late) && <ErrorNote error={late.error} again={() => void late.refetch()} />}
      {late.isPending && <Loading what="what is late" />}
      {late.data && (
        <div className="grid gap-8 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <Companies found={late.data} />
          <Steps steps={late.data.steps} />
        </div>
      )}
    </div>
  )
}

function Companies({ found }: { found: Lateness }) {
  if (found.companies.length === 0) return <Empty>Nobody has been asked in a review yet.</Empty>
  return (
    <section aria-label="Companies">
      <table className="w-full border-t border-line text-list">
        <thead className="text-left text-note text-second">
          <tr>
            <th className="py-1 pr-2 font-semibold">Company</th>
            <th className="pr-2 text-right font-semibold">Open</th>
            <th className="pr-2 text-right font-semibold">Late</th>
            <th className="font-semibold">Working days to answer, the last ten</th>
          </tr>
        </thead>
        <tbody>
          {found.companies.map((each) => (
            <tr key={each.code} className="border-t border-line">
              <td className="py-1.5 pr-2" title={each.name}>
                <span className="code font-bold">{each.code}</span>
                <span className="ml-2 text-second max-md:hidden">{each.name}</span>
              </td>
              <td className="pr-2 text-right tabular-nums">{each.open}</td>
              <td className="pr-2 text-right whitespace-nowrap tabular-nums">
                {each.late > 0 ? (
                  <span className="font-semibold text-brick">
                    {each.late}, {each.worst} d
                  </span>
                ) : (
                  0
                )}
              </td>
              <td>
                <Pace company={each} longest={found.longest} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

function Steps({ steps }: { steps: readonly LateStep[] }) {
  const { project } = useSeat()
  const settled = useSettled()
  const [left, setLeft] = useState<string[]>([])
  const chosen = [...new Set(steps.map((each) => each.review_id))].filter((id) => !left.includes(id))
  const remind = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/reviews/remind', { body: { project_id: project.id, reviews: chosen } })),
    onSettled: settled,
  })
  if (steps.length === 0) return <Empty>Nothing is late.</Empty>
  return (
    <section aria-label="Late steps">
      <ul className="border-t border-line">
        {steps.map((each) => (
          <li
            key={`${each.review_id} ${each.step}`}
            className="flex items-start gap-3 border-b border-line py-1.5"
          >
            <input
              type="checkbox"
              className="mt-1 size-4 accent-plum"
              aria-label={`Remind of ${each.number} ${each.step}`}
              checked={!left.includes(each.review_id)}
              onChange={(event) =>
                setLeft(
                  event.target.checked
                    ? left.filter((id) => id !== each.review_id)
                    : [...left, each.review_id],
                )
              }
            />
            <Step step={each} />
          </li>
        ))}
      </ul>
      <ErrorNote error={remind.error} />
      <div className="mt-3 flex items-center justify-end gap-3">
        {remind.data && (
          <span role="status" className="text-spruce">
            Reminded of {counted(remind.data.steps, 'step')}.
          </span>
        )}
        <Button
          look="act"
          busy={remind.isPending}
          why={chosen.length === 0 && 'Choose at least one.'}
          onClick={() => remind.mutate()}
        >
          Remind of {counted(chosen.length, 'review')}
        </Button>
      </div>
    </section>
  )
}

function Step({ step }: { step: LateStep }) {
  return (
    <div className="min-w-0 flex-1 text-list">
      <p className="flex flex-wrap items-baseline gap-x-2">
        <Link
          to="/reviews/$reviewId"
          params={{ reviewId: step.review_id }}
          className="code inline-flex min-h-6 items-center text-plum underline"
        >
          {step.number}
        </Link>
        <span className="font-semibold">{step.name}</span>
        <span className="ml-auto font-semibold whitespace-nowrap text-brick">{step.days_late} d late</span>
      </p>
      <p className="text-second">
        {step.step}: {step.who.map((who) => `${who.name} (${who.company})`).join(', ') || 'nobody'}, since{' '}
        <When at={step.since_at} />, due <Day on={step.due_on} />
      </p>
    </div>
  )
}
