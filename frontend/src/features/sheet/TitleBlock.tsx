import { Link, useNavigate } from '@tanstack/react-router'
import { Columns2, Layers, Search, Users } from 'lucide-react'

import { hasLevel, useSeat } from '../../api/me'
import { IconButton } from '../../ui/IconButton'
import { BareChoice } from '../../ui/Input'
import { StandingLine } from '../../ui/RevisionStanding'
import { VerdictMark } from '../../ui/Stamp'
import { When } from '../../ui/Standing'
import { Along } from './Along'
import { useSheet } from './sheetContext'
import { useSheetTravel } from './useSheetTravel'

/** The sheet's identity, as a small title block. */
export function TitleBlock() {
  const { sheet } = useSheet()
  return (
    <div data-panel className="absolute top-3 left-3 w-[338px] border border-second bg-surface text-list">
      <div className="relative border-b border-line px-2.5 py-1.5">
        <Tools />
        {sheet.let_in ? (
          <span className="code block max-w-[200px] truncate">{sheet.number}</span>
        ) : (
          <Link
            to="/register"
            search={{ document: sheet.document_id }}
            className="code block max-w-[200px] truncate text-plum underline"
          >
            {sheet.number}
          </Link>
        )}
        <h1 className="truncate text-read font-semibold" title={sheet.title}>
          {sheet.title}
        </h1>
      </div>
      <Facts />
      {sheet.pages.length > 1 && <Pages />}
      <Standing />
      {sheet.copy_why && (
        <p className="border-t border-line px-2.5 py-1 text-second">
          A copy in this folder, by {sheet.copy_why}, <When at={sheet.copied_at} />
        </p>
      )}
    </div>
  )
}

/** Nothing where the sheet is what people work from. */
function Standing() {
  const { sheet } = useSheet()
  const { kind } = sheet.standing
  if (kind === 'in_force') return null
  const ground = GROUNDS[kind] ?? ''
  return (
    <div className={`flex items-center gap-2 border-t border-line px-2.5 py-1 ${ground}`}>
      <StandingLine standing={sheet.standing} className="min-w-0 flex-1" />
      {sheet.in_force_id !== '' && sheet.in_force_id !== sheet.revision_id && (
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: sheet.in_force_id }}
          className="shrink-0 text-plum underline"
        >
          Open {sheet.in_force}
        </Link>
      )}
    </div>
  )
}

const GROUNDS: Record<string, string> = {
  superseded: 'bg-brick-tint',
  withdrawn: 'bg-brick-tint',
  not_released: 'bg-ochre-tint',
  ahead: 'bg-slate-tint',
}

/** What is done with the sheet as a whole. */
function Tools() {
  const { sheet, layers, panes, room } = useSheet()
  const { project } = useSeat()
  const navigate = useNavigate()
  const travel = useSheetTravel({ sheet, room })
  const mayMeet = !room && !sheet.let_in && project.tools.includes('sessions') && hasLevel(project, 'file')
  return (
    <span className="absolute top-1 right-1 flex">
      {mayMeet && (
        <IconButton
          label="Make a session of this sheet"
          icon={<Users size={15} aria-hidden />}
          onClick={() => void navigate({ to: '/sessions/new', search: { revisions: sheet.revision_id } })}
        />
      )}
      <Along documentId={sheet.document_id} onAlong={travel.along} />
      {layers.length > 0 && (
        <IconButton
          label="Layers"
          icon={<Layers size={15} aria-hidden />}
          onClick={() => panes.flip('layers')}
        />
      )}
      {!sheet.let_in && (
        <IconButton
          label={travel.against ? `Compare with ${travel.against} (c)` : 'Compare (c)'}
          icon={<Columns2 size={15} aria-hidden />}
          onClick={travel.compare}
        />
      )}
      <IconButton
        label="Find on the sheet (/)"
        icon={<Search size={15} aria-hidden />}
        onClick={() => panes.flip('find')}
      />
    </span>
  )
}

function Facts() {
  const { project } = useSeat()
  const { sheet, page, room } = useSheet()
  const travel = useSheetTravel({ sheet, room })
  return (
    <div className="grid grid-cols-[1fr_auto_1fr_auto] divide-x divide-line">
      <label className="px-2.5 py-1">
        <span className="block text-fine text-second">Revision</span>
        <BareChoice
          value={sheet.revision_id}
          className="code -ml-1 font-bold"
          onChange={(event) => travel.open(event.target.value)}
        >
          {sheet.revisions.map((revision) => (
            <option key={revision.id} value={revision.id}>
              {revision.code}
              {revision.id === sheet.in_force_id ? ' in force' : ''}
            </option>
          ))}
        </BareChoice>
      </label>
      <div className="px-2.5 py-1">
        <span className="block text-fine text-second">Status</span>
        <span className="code" title={project.statuses[sheet.status]}>
          {sheet.status}
        </span>
      </div>
      <div className="px-2.5 py-1">
        <span className="block text-fine text-second">Size</span>
        {sheet.pages[page]?.size_name}
      </div>
      {!sheet.let_in && (
        <div className="px-2.5 py-1">
          <span className="block text-fine text-second">Verdict</span>
          {sheet.verdict ? <VerdictMark code={sheet.verdict} /> : 'none'}
        </div>
      )}
    </div>
  )
}

function Pages() {
  const { sheet, page, setPage } = useSheet()
  const name = sheet.pages[page]?.name
  return (
    <div className="flex items-center gap-2 border-t border-line px-2.5 py-1">
      <button
        type="button"
        disabled={page === 0}
        onClick={() => setPage(page - 1)}
        aria-label="Previous page"
      >
        ‹
      </button>
      <span className="min-w-0 truncate">
        {name && <b className="code mr-1.5">{name}</b>}
        page {page + 1} of {sheet.pages.length}
      </span>
      <button
        type="button"
        disabled={page + 1 === sheet.pages.length}
        onClick={() => setPage(page + 1)}
        aria-label="Next page"
      >
        ›
      </button>
    </div>
  )
}
