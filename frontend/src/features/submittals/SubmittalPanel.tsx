import { Link, useSearch } from '@tanstack/react-router'
import { useState } from 'react'

import { useLookedAt } from '../../api/lookedAt'
import { Button } from '../../ui/Button'
import { Following } from '../../ui/Following'
import { LettersAbout } from '../../ui/LettersAbout'
import { LinkedMarks } from '../../ui/LinkedMarks'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Panel } from '../../ui/Panel'
import { VerdictMark } from '../../ui/Stamp'
import { Day, Due, When } from '../../ui/Standing'
import { Tabs } from '../../ui/Tabs'
import { Talk, useTalk } from '../../ui/Talk'
import { Timeline } from '../../ui/Trail'
import { Copied } from './Copied'
import { EditDetails } from './DetailsForm'
import { FloatPast } from './FloatPast'
import { Float, Rail, todayAt } from './Rail'
import { NextAct } from './NextAct'
import { Parts } from './Parts'
import { Rounds } from './Rounds'
import { OnPaper } from './OnPaper'
import { useSubmittal, type Submittal } from './useSubmittals'

/** One submittal: what is wanted and by when, its rounds, what may be done with it. */
export function SubmittalPanel({ submittalId, onClose }: { submittalId: string; onClose: () => void }) {
  const found = useSubmittal(submittalId)
  useLookedAt('submittal', found.data?.line.id)
  const talk = useTalk('submittal', submittalId)
  const { tab } = useSearch({ strict: false })
  if (!found.data)
    return (
      <Panel label="Submittal" onClose={onClose} width={560}>
        {found.error ? <ErrorNote error={found.error} /> : <Loading what="the submittal" />}
      </Panel>
    )
  const submittal = found.data
  return (
    <Panel label="Submittal" onClose={onClose} width={560}>
      <Head submittal={submittal} />
      <Tabs
        label="Submittal"
        asked={tab}
        tabs={[
          { key: 'now', words: 'Now', content: <Now submittal={submittal} /> },
          {
            key: 'rounds',
            words: 'Rounds',
            count: submittal.rounds.length,
            content: <Rounds submittal={submittal} />,
          },
          {
            key: 'copied',
            words: 'Copied in',
            count: submittal.copied.length,
            content: <Copied submittal={submittal} />,
          },
          {
            key: 'talk',
            words: 'Talk',
            count: talk.data?.said.length ?? 0,
            content: <Talk kind="submittal" target={submittalId} words="this submittal" />,
          },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={submittalId} /> },
        ]}
      />
    </Panel>
  )
}

function Head({ submittal }: { submittal: Submittal }) {
  const { line } = submittal
  const { standing } = line
  return (
    <header className="px-4 pt-3 pr-10 pb-2">
      <p className="flex flex-wrap items-center gap-x-2 text-list text-second">
        {line.verdict && <VerdictMark code={line.verdict} spelled />}
        <span>
          {line.state}
          {standing.with_whom && ` with ${standing.with_whom}`}
        </span>
        {standing.since_at && (
          <span>
            since <When at={standing.since_at} />
          </span>
        )}
        {standing.due_on && (
          <span>
            due <Due standing={standing} />
          </span>
        )}
      </p>
      <h2 className="text-head font-semibold">
        <span className="code">{line.shown}</span> {line.title}
      </h2>
      <p className="text-list text-second">
        {line.kind_words}
        {submittal.for_information && ', for information'}, from {line.company_name}
        {line.section && (
          <>
            , section <span className="code">{line.section}</span> {submittal.paragraph}
          </>
        )}
      </p>
    </header>
  )
}

function Now({ submittal }: { submittal: Submittal }) {
  const [editing, setEditing] = useState(false)
  return (
    <div className="flex flex-col gap-4">
      {submittal.why_void && <p className="text-brick">Void: {submittal.why_void}</p>}
      <NextAct submittal={submittal} />
      <Clock submittal={submittal} />
      <Facts submittal={submittal} />
      <Parts submittal={submittal} />
      {submittal.line.may.includes('edit') && (
        <Button small className="self-start" onClick={() => setEditing(true)}>
          Change the details …
        </Button>
      )}
      {editing && <EditDetails submittal={submittal} onClose={() => setEditing(false)} />}
      <OnPaper submittal={submittal} />
      <LinkedMarks kind="submittal" target={submittal.line.id} />
      <LettersAbout kind="submittal" target={submittal.line.id} words="this submittal" />
      <Following kind="submittal" target={submittal.line.id} words="this submittal" />
    </div>
  )
}

/** The arithmetic, laid open. */
function Clock({ submittal }: { submittal: Submittal }) {
  const { line, arithmetic } = submittal
  if (line.state === 'void') return null
  if (line.float_days === null)
    return (
      <p className="border border-line bg-paper px-3 py-2">
        How much time there is cannot be worked out: {line.unknown}.
      </p>
    )
  return (
    <section aria-label="The clock" className="border border-line bg-paper px-3 py-2">
      <p className="mb-1 flex items-baseline justify-between gap-2">
        <span className="font-semibold">
          {arithmetic.float}
          {arithmetic.lot && `, of the lot ${arithmetic.lot}`}
        </span>
        <Float line={line} />
      </p>
      {line.rail && (
        <>
          <Rail rail={line.rail} float={line.float_days} />
          <p className="relative h-4 text-note text-second">
            <span className="absolute" style={{ left: `${todayAt(line.rail)}%` }}>
              today
            </span>
            <span className="absolute right-0 bg-paper pl-2">
              on site <Day on={line.rail.required_on} />
            </span>
          </p>
        </>
      )}
      <dl className="mt-2 flex flex-col gap-1.5 text-list">
        {line.state !== 'closed' && (
          <div>
            <dt className="text-note text-second">Latest send-in</dt>
            <dd>{arithmetic.latest}</dd>
          </div>
        )}
        <div>
          <dt className="text-note text-second">Forecast</dt>
          <dd>{arithmetic.forecast}</dd>
        </div>
      </dl>
      <FloatPast floats={submittal.floats} />
    </section>
  )
}

function Facts({ submittal }: { submittal: Submittal }) {
  const lines: [string, string][] = [
    ['What is wanted', submittal.description],
    [
      'Asked',
      submittal.line.person ? `${submittal.line.person.name} (${submittal.line.person.company})` : '',
    ],
    ['To answer', submittal.approver ? `${submittal.approver.name} (${submittal.approver.company})` : ''],
    ['Kept by', `${submittal.keeper.name} (${submittal.keeper.company})`],
    ['Reference', submittal.reference],
    ['Category', submittal.category],
    ['Location', submittal.line.location],
    ['Milestone', submittal.line.milestone],
  ]
  return (
    <dl className="grid grid-cols-[110px_1fr] gap-x-3 gap-y-1 text-list">
      {lines
        .filter(([, words]) => words)
        .map(([label, words]) => (
          <div key={label} className="contents">
            <dt className="text-second">{label}</dt>
            <dd className="whitespace-pre-line">{words}</dd>
          </div>
        ))}
      {submittal.asked_in && (
        <div className="contents">
          <dt className="text-second">Asked for in</dt>
          <dd>
            <Link
              to="/sheet/$revisionId"
              params={{ revisionId: submittal.asked_in.revision_id }}
              search={{ page: submittal.asked_in.page }}
              className="text-plum underline"
            >
              <span className="code">{submittal.asked_in.number}</span>, page {submittal.asked_in.page + 1}
            </Link>{' '}
            <span className="code font-bold">{submittal.asked_in.revision}</span>
          </dd>
        </div>
      )}
    </dl>
  )
}
