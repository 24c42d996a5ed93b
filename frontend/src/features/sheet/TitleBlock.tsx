import { Link } from '@tanstack/react-router'
import { Columns2, Layers, Search } from 'lucide-react'

import { useSeat } from '../../api/me'
import { IconButton } from '../../ui/IconButton'
import { BareChoice } from '../../ui/Input'
import { VerdictMark } from '../../ui/Stamp'
import { Along } from './Along'
import { useSheet } from './sheetContext'
import { useSheetTravel } from './useSheetTravel'

/** The sheet's identity, as a small title block. */
export function TitleBlock() {
  const { sheet } = useSheet()
  return (
    <div data-panel className="absolute top-3 left-3 w-[330px] border border-second bg-surface text-list">
      <div className="relative border-b border-line px-2.5 py-1.5">
        <Tools />
        <Link
          to="/register"
          search={{ document: sheet.document_id }}
          className="code block max-w-[200px] truncate text-plum underline"
        >
          {sheet.number}
        </Link>
        <h1 className="truncate text-read font-semibold" title={sheet.title}>
          {sheet.title}
        </h1>
      </div>
      <Facts />
      {sheet.pages.length > 1 && <Pages />}
      {sheet.superseded && (
        <p role="status" className="border-t border-line bg-brick-tint px-2.5 py-1 font-semibold text-brick">
          Superseded. The current revision is {sheet.current_revision}.
        </p>
      )}
    </div>
  )
}

/** What is done with the sheet as a whole. */
function Tools() {
  const { sheet, layers, panes } = useSheet()
  const travel = useSheetTravel(sheet)
  return (
    <span className="absolute top-1 right-1 flex">
      <Along documentId={sheet.document_id} onAlong={travel.along} />
      {layers.length > 0 && (
        <IconButton
          label="Layers"
          icon={<Layers size={15} aria-hidden />}
          onClick={() => panes.flip('layers')}
        />
      )}
      <IconButton label="Compare (c)" icon={<Columns2 size={15} aria-hidden />} onClick={travel.compare} />
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
  const { sheet, page } = useSheet()
  const travel = useSheetTravel(sheet)
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
      <div className="px-2.5 py-1">
        <span className="block text-fine text-second">Verdict</span>
        {sheet.verdict ? <VerdictMark code={sheet.verdict} /> : 'none'}
      </div>
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
