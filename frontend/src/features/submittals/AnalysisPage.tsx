import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import type { ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { FloatDays } from './FloatDays'

type Analysis = Schemas['SubmittalAnalysis']
type Answers = Analysis['answers'][number]
type Rounds = Analysis['rounds'][number]

const NONE =
  'Nothing has been answered yet. Answer times, rounds and floats are shown here once there are some.'

/** How the log does: who answers how fast, how many rounds it takes, how floats fall. Each figure leads to its lines. */
export function AnalysisPage(): ReactNode {
  const { project } = useSeat()
  const query = { project_id: project.id }
  const found = useQuery({
    queryKey: ['submittals', 'analysis', query],
    queryFn: () => unwrap(api.GET('/api/submittals/analysis', { params: { query } })),
  })
  if (isLost(found))
    return (
      <div className="p-5">
        <ErrorNote error={found.error} again={() => void found.refetch()} />
      </div>
    )
  if (!found.data) return <Loading what="the figures" />
  const { answers, rounds, floats } = found.data
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-auto">
      <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b border-line px-4 py-2">
        <h1 className="text-head font-semibold">Submittals, how they go</h1>
        <Link to="/submittals" className="inline-flex min-h-6 items-center text-plum underline">
          The log
        </Link>
      </header>
      {answers.length || rounds.length || floats.some((each) => each.known) ? (
        <div className="grid gap-x-10 gap-y-8 px-4 py-4 min-[1000px]:grid-cols-[3fr_2fr]">
          <AnswerTimes answers={answers} />
          <RoundsTaken rounds={rounds} />
          <FloatDays days={floats} />
        </div>
      ) : (
        <Empty>{NONE}</Empty>
      )}
    </div>
  )
}

function Heading({ words, more }: { words: string; more: string }) {
  return (
    <>
      <h2 className="font-semibold">{words}</h2>
      <p className="mb-2 max-w-[70ch] text-list text-second">{more}</p>
    </>
  )
}

const CELL = 'border-b border-line py-1.5 pr-3 text-left align-middle font-normal'
const HEAD = `${CELL} text-note text-second font-medium`

function AnswerTimes({ answers }: { answers: readonly Answers[] }) {
  const longest = Math.max(1, ...answers.map((each) => each.most))
  return (
    <section aria-label="How long answers take">
      <Heading
        words="How long answers take"
        more="Working days from sent in to answered. The box holds the middle half of a company’s answers, the stroke in it is the median; the line goes from the fastest to the slowest."
      />
      {answers.length ? (
        <table className="w-full text-list">
          <thead>
            <tr>
              <th className={HEAD}>Company</th>
              <th className={`${HEAD} text-right`}>Median</th>
              <th className={`${HEAD} w-[38%] max-sm:hidden`}>Spread</th>
              <th className={`${HEAD} max-sm:hidden`}>Middle half</th>
              <th className={`${HEAD} text-right`}>Answers</th>
              <th className={`${HEAD} pr-0 text-right`}>Waiting</th>
            </tr>
          </thead>
          <tbody>
            {answers.map((each) => (
              <AnswersRow key={each.company_id} of={each} longest={longest} />
            ))}
          </tbody>
        </table>
      ) : (
        <p className="text-second">Nothing has been answered yet.</p>
      )}
    </section>
  )
}

function AnswersRow({ of, longest }: { of: Answers; longest: number }) {
  return (
    <tr>
      <th scope="row" className={CELL} title={of.name}>
        {of.code} <span className="text-second max-md:hidden">{of.name}</span>
      </th>
      <td className={`${CELL} text-right font-semibold whitespace-nowrap`}>{of.median} d</td>
      <td className={`${CELL} max-sm:hidden`}>
        <Spread of={of} longest={longest} />
      </td>
      <td className={`${CELL} whitespace-nowrap max-sm:hidden`}>
        {of.lower} to {of.upper} d
      </td>
      <td className={`${CELL} text-right`}>
        <Link
          to="/submittals"
          search={{ answered_by: of.company_id }}
          aria-label={`${counted(of.count, 'answer')} of ${of.name}`}
          className="inline-flex min-h-6 min-w-6 items-center justify-end text-plum underline"
        >
          {of.count}
        </Link>
      </td>
      <td className={`${CELL} pr-0 text-right`}>
        {of.waiting > 0 && (
          <Link
            to="/submittals"
            search={{ waits_for: of.company_id }}
            aria-label={`${of.waiting} waiting for ${of.name}`}
            className="inline-flex min-h-6 min-w-6 items-center justify-end text-plum underline"
          >
            {of.waiting}
          </Link>
        )}
      </td>
    </tr>
  )
}

function Spread({ of, longest }: { of: Answers; longest: number }) {
  const at = (days: number) => `${(days / longest) * 100}%`
  return (
    <span
      role="img"
      aria-label={`from ${of.least} to ${counted(of.most, 'working day')}`}
      className="relative block h-4"
    >
      <span
        className="absolute top-1/2 border-t border-second"
        style={{ left: at(of.least), width: at(of.most - of.least) }}
      />
      <span
        className="absolute top-0.5 h-3 min-w-px border border-plum bg-plum-tint"
        style={{ left: at(of.lower), width: at(of.upper - of.lower) }}
      />
      <span className="absolute top-0 h-4 border-l-2 border-plum" style={{ left: at(of.median) }} />
    </span>
  )
}

function RoundsTaken({ rounds }: { rounds: readonly Rounds[] }) {
  return (
    <section aria-label="How many rounds it takes">
      <Heading
        words="How many rounds it takes"
        more="Of what has been answered to proceed, by kind; each count leads to its submittals."
      />
      {rounds.length ? (
        <table className="w-full text-list">
          <thead>
            <tr>
              <th className={HEAD}>Kind</th>
              <th className={`${HEAD} text-right`}>On average</th>
              <th className={`${HEAD} pr-0`}>Settled in</th>
            </tr>
          </thead>
          <tbody>
            {rounds.map((each) => (
              <tr key={each.kind}>
                <th scope="row" className={CELL}>
                  {each.words}
                </th>
                <td className={`${CELL} text-right font-semibold`}>{each.mean}</td>
                <td className={`${CELL} pr-0`}>
                  <span className="flex flex-wrap gap-x-3">
                    {each.rounds.map(({ rounds: took, count }) => (
                      <Link
                        key={took}
                        to="/submittals"
                        search={{ kind: each.kind, took }}
                        className="inline-flex min-h-6 items-center whitespace-nowrap text-plum underline"
                      >
                        {counted(took, 'round')}: {count}
                      </Link>
                    ))}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="text-second">Nothing has been answered to proceed yet.</p>
      )}
    </section>
  )
}
