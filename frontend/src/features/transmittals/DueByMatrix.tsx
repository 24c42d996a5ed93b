import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { useDue, usePrepareDue, type DueCompany } from './useTransmittals'

/** For who runs the project: what the distribution matrix owes to whom, to be prepared as drafts. */
export function DueByMatrix() {
  const { project } = useSeat()
  return project.runs ? <Strip /> : null
}

const open = (company: DueCompany) => company.act + company.know

function Strip() {
  const due = useDue()
  const prepare = usePrepareDue()
  const [shown, setShown] = useState('')
  if (isLost(due)) return <ErrorNote error={due.error} again={() => void due.refetch()} />
  const waiting = due.data?.companies.filter((each) => open(each) > 0) ?? []
  if (!waiting.length) return null
  return (
    <section aria-label="Due by the matrix" className="border-b border-line px-4 py-1.5 text-list">
      <h2 className="flex flex-wrap items-center gap-x-3 gap-y-1 text-note font-semibold text-second">
        <span>
          Due by the{' '}
          <Link to="/setup/$section" params={{ section: 'distribution' }} className="text-plum underline">
            distribution matrix
          </Link>
        </span>
        <Button small busy={prepare.isPending} onClick={() => prepare.mutate(waiting.map((each) => each.id))}>
          Prepare {counted(waiting.length, 'company', 'companies')}
        </Button>
      </h2>
      <ErrorNote error={prepare.error} />
      <ul className="max-h-[150px] overflow-y-auto overflow-x-hidden">
        {waiting.map((each) => (
          <li key={each.id}>
            <div className="flex min-h-6 flex-wrap items-center gap-x-3">
              <button
                type="button"
                aria-expanded={shown === each.id}
                title={each.name}
                className="min-h-6 text-left hover:text-plum"
                onClick={() => setShown(shown === each.id ? '' : each.id)}
              >
                <span className="code font-semibold">{each.code}</span> {dueWords(each)}
              </button>
              <Button
                small
                className="ml-auto"
                aria-label={`Prepare what is due to ${each.code}`}
                busy={prepare.isPending}
                onClick={() => prepare.mutate([each.id])}
              >
                Prepare
              </Button>
            </div>
            {shown === each.id && <Documents company={each} />}
          </li>
        ))}
      </ul>
    </section>
  )
}

function dueWords({ act, know, in_drafts: drafted }: DueCompany): string {
  const parts = [
    act && `${counted(act, 'document')} to act on`,
    know && `${counted(know, 'document')} to know`,
  ]
  const words = parts.filter(Boolean).join(', ')
  return drafted ? `${words} (${drafted} in drafts)` : words
}

function Documents({ company }: { company: DueCompany }) {
  const first = company.documents.filter((each) => !each.in_draft)
  return (
    <ul className="mb-1 border-l-2 border-line pl-3">
      {first.map((each) => (
        <li key={each.revision_id} className="flex flex-wrap gap-x-2">
          <span className="code">{each.number}</span>
          <span className="code font-bold">{each.revision}</span>
          <span className="min-w-0 truncate">{each.title}</span>
          <span className="text-second">{each.act ? 'to act on' : 'to know'}</span>
        </li>
      ))}
      {open(company) > first.length && (
        <li className="text-second">and {open(company) - first.length} more</li>
      )}
    </ul>
  )
}
