import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState, type ReactNode } from 'react'

import { api, unwrap } from '../../api/client'
import { isLost } from '../../api/fetched'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Select, TextField } from '../../ui/Field'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { usePeople } from '../../ui/usePeopleToChoose'
import { SpecificationItems } from './SpecificationItems'
import { useSpecification, useTaking, type Item, type Spec, type Taking } from './useSpecification'
import { useActing } from './useSubmittals'

/** What a specification of the register asks for, each beside the page it stands on; accepted into the log. */
export function SpecificationPage(): ReactNode {
  const { spec: revision } = useSearch({ from: '/frame/submittals/specification' })
  return revision ? <Read key={revision} revisionId={revision} /> : <Choose />
}

const FOUND = 20

/** Which document of the register is the specification. */
function Choose() {
  const { project } = useSeat()
  const navigate = useNavigate()
  const { named: words = 'specification' } = useSearch({ from: '/frame/submittals/specification' })
  const found = useQuery({
    queryKey: ['register', { project_id: project.id, words, limit: FOUND }],
    queryFn: () =>
      unwrap(
        api.GET('/api/documents', { params: { query: { project_id: project.id, words, limit: FOUND } } }),
      ),
  })
  const lines = found.data?.lines ?? []
  return (
    <main className="mx-auto w-full max-w-[760px] overflow-auto px-4 py-5">
      <h1 className="mb-1 text-head font-semibold">From the specification</h1>
      <p className="mb-3 text-read text-second">
        Choose it in the register. Nod reads its sections and articles, and proposes what has to be sent in,
        each with the page it stands on. Nothing is kept before you take it into the log.
      </p>
      <TextField
        label="Number, or words of its title"
        keep="passing"
        value={words}
        onChange={(event) =>
          void navigate({
            to: '/submittals/specification',
            search: { named: event.target.value },
            replace: true,
          })
        }
      />
      <ErrorNote error={found.error} again={() => void found.refetch()} />
      <ul aria-label="Found in the register" className="mt-3 border border-line bg-surface">
        {lines.map((line) => (
          <li key={line.id} className="border-b border-line/60 last:border-b-0">
            <Link
              to="/submittals/specification"
              search={{ spec: line.revision_id }}
              className="flex flex-wrap items-baseline gap-x-3 px-3 py-2 hover:bg-paper"
            >
              <span className="code text-plum underline">{line.number}</span>
              <span className="code font-bold">{line.revision}</span>
              <span className="min-w-0 flex-1">{line.title}</span>
            </Link>
          </li>
        ))}
      </ul>
      {found.data && !lines.length && (
        <p role="status" className="mt-2">
          Nothing in the register is called so.
        </p>
      )}
    </main>
  )
}

function Read({ revisionId }: { revisionId: string }) {
  const found = useSpecification(revisionId)
  if (isLost(found))
    return (
      <div className="p-5">
        <ErrorNote error={found.error} again={() => void found.refetch()} />
      </div>
    )
  if (!found.data) return <Loading what="the specification" />
  return <Specification spec={found.data} />
}

function Another() {
  return (
    <Link to="/submittals/specification" className="text-plum underline">
      Choose another
    </Link>
  )
}

function Specification({ spec }: { spec: Spec }) {
  const taking = useTaking(spec)
  const [looked, setLooked] = useState(spec.items[0]?.key)
  const item = spec.items.find((each) => each.key === looked) ?? spec.items[0]
  if (!item)
    return (
      <Empty title={spec.has_words ? 'It asks for nothing' : 'It has no words'} act={<Another />}>
        {spec.has_words
          ? `${spec.number} ${spec.revision} has no article that calls for submittals by the words of this project. Leads can change these words in Set-up, Submittals.`
          : `${spec.number} ${spec.revision} has no words that could be read: it is no PDF, or a scan that has not been read yet. Scans are read in Intake.`}
      </Empty>
    )
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Head spec={spec} taking={taking} />
      <div className="flex min-h-0 flex-1">
        <div className="min-w-0 flex-1 overflow-auto">
          <SpecificationItems spec={spec} taking={taking} looked={item.key} onLook={setLooked} />
        </div>
        <PageBeside spec={spec} item={item} />
      </div>
    </div>
  )
}

function Head({ spec, taking }: { spec: Spec; taking: Taking }) {
  const fresh = taking.open.filter((each) => each.standing === 'new')
  const there = spec.items.length - taking.open.length
  return (
    <header className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2 border-b border-line px-4 py-2">
      <div className="min-w-0">
        <h1 className="text-head font-semibold">
          From the specification <span className="code">{spec.number}</span>{' '}
          <span className="code">{spec.revision}</span>
        </h1>
        <p role="status" className="text-list text-second">
          {counted(spec.items.length, 'item')} on {counted(spec.page_mm.length, 'page')}: {fresh.length} new,{' '}
          {there} in the log, {taking.open.length - fresh.length} elsewhere than before, {spec.gone.length}{' '}
          gone. <Another />
        </p>
      </div>
      <Take taking={taking} />
    </header>
  )
}

function Take({ taking }: { taking: Taking }) {
  const people = usePeople()
  const acting = useActing()
  const companies = people.data?.companies ?? []
  const { chosen, take } = taking
  const why = whyNot(taking)
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (!why && !acting) take.mutate()
      }}
    >
      <Select
        label="Responsible for what is marked"
        className="w-[240px]"
        value={taking.company}
        onChange={taking.setCompany}
        choices={[
          { code: '', words: 'Choose …' },
          ...companies.map((each) => ({ code: each.id, words: each.name })),
        ]}
      />
      <Button look="act" type="submit" busy={acting} why={why}>
        {chosen.length ? `Take ${chosen.length} into the log` : 'Take into the log'}
      </Button>
      <ErrorNote error={take.error} />
      {take.data && !chosen.length && <Taken {...take.data} />}
    </form>
  )
}

function whyNot({ chosen, lines, company }: Taking): string | false {
  if (!chosen.length) return 'Mark what is to be taken.'
  if (lines.length && !company) return 'Say which company is responsible for them.'
  const unnamed = lines.some((each) => !each.kind || each.title.trim().length < 2)
  return unnamed && 'Something marked has no kind or no title yet.'
}

function Taken({ made, moved }: { made: number; moved: number }) {
  return (
    <p role="status" className="basis-full text-right text-list text-spruce">
      {counted(made, 'submittal')} made{moved > 0 && `, ${moved} said to stand elsewhere`}.
    </p>
  )
}

const LEVEL = 11
const BAND_MM = 6

/** The page on which an item stands, with a bar beside its paragraph. */
function PageBeside({ spec, item }: { spec: Spec; item: Item }) {
  const [, tall = 297] = spec.page_mm[item.page] ?? []
  const top = `${(item.top / tall) * 100}%`
  return (
    <aside
      aria-label={`Page ${item.page + 1}`}
      className="w-[44%] max-w-[620px] shrink-0 overflow-auto border-l border-line bg-paper p-3 max-md:hidden"
    >
      <p className="mb-2 flex justify-between text-list">
        <b>
          Page {item.page + 1} of {spec.page_mm.length}
        </b>
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: spec.revision_id }}
          search={{ page: item.page }}
          className="inline-flex min-h-6 items-center text-plum underline"
        >
          Open the sheet
        </Link>
      </p>
      <div className="relative border border-line bg-white">
        <img
          src={`/api/sheets/${spec.revision_id}/tiles/${item.page}/${LEVEL}`}
          alt={`Page ${item.page + 1}, ${item.section} ${item.paragraph}`}
          className="w-full"
        />
        <div
          aria-hidden
          className="absolute right-0 left-0 border-l-4 border-plum bg-plum/10"
          style={{ top, height: `${(BAND_MM / tall) * 100}%` }}
        />
      </div>
    </aside>
  )
}
