import { Link, useNavigate } from '@tanstack/react-router'
import { Columns2, Layers, Search } from 'lucide-react'

import type { Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { IconButton } from '../../ui/IconButton'
import { VerdictMark } from '../../ui/Stamp'
import { Along } from './Along'

type Sheet = Schemas['Sheet']

interface Props {
  sheet: Sheet
  page: number
  onPage: (page: number) => void
  onFind: () => void
  onCompare: () => void
  onAlong: (step: number) => void
  /** Null where the file has no layers. */
  onLayers: (() => void) | null
}

/** The sheet's identity, as a small title block. */
export function TitleBlock({ sheet, page, onPage, onFind, onCompare, onAlong, onLayers }: Props) {
  const { project } = useSeat()
  const navigate = useNavigate()
  const shape = sheet.pages[page]
  return (
    <div data-panel className="absolute top-3 left-3 w-[330px] border border-second bg-surface text-list">
      <div className="relative border-b border-line px-2.5 py-1.5">
        <span className="absolute top-1 right-1 flex">
          <Along documentId={sheet.document_id} onAlong={onAlong} />
          {onLayers && (
            <IconButton label="Layers" icon={<Layers size={15} aria-hidden />} onClick={onLayers} />
          )}
          <IconButton label="Compare (c)" icon={<Columns2 size={15} aria-hidden />} onClick={onCompare} />
          <IconButton
            label="Find on the sheet (/)"
            icon={<Search size={15} aria-hidden />}
            onClick={onFind}
          />
        </span>
        <Link
          to="/register"
          search={{ document: sheet.document_id }}
          className="code block max-w-[200px] truncate text-plum underline"
        >
          {sheet.number}
        </Link>
        <h1 className="truncate text-[14.5px] font-semibold" title={sheet.title}>
          {sheet.title}
        </h1>
      </div>
      <div className="grid grid-cols-[1fr_auto_1fr_auto] divide-x divide-line">
        <label className="px-2.5 py-1">
          <span className="block text-[11px] text-second">Revision</span>
          <select
            value={sheet.revision_id}
            className="code -ml-1 bg-transparent font-bold"
            onChange={(event) =>
              void navigate({ to: '/sheet/$revisionId', params: { revisionId: event.target.value } })
            }
          >
            {sheet.revisions.map((revision) => (
              <option key={revision.id} value={revision.id}>
                {revision.code}
              </option>
            ))}
          </select>
        </label>
        <div className="px-2.5 py-1">
          <span className="block text-[11px] text-second">Status</span>
          <span className="code" title={project.statuses[sheet.status]}>
            {sheet.status}
          </span>
        </div>
        <div className="px-2.5 py-1">
          <span className="block text-[11px] text-second">Size</span>
          {shape?.size_name}
        </div>
        <div className="px-2.5 py-1">
          <span className="block text-[11px] text-second">Verdict</span>
          {sheet.verdict ? <VerdictMark code={sheet.verdict} /> : 'none'}
        </div>
      </div>
      {sheet.pages.length > 1 && (
        <div className="flex items-center gap-2 border-t border-line px-2.5 py-1">
          <button
            type="button"
            disabled={page === 0}
            onClick={() => onPage(page - 1)}
            aria-label="Previous page"
          >
            ‹
          </button>
          <span className="min-w-0 truncate">
            {shape?.name && <b className="code mr-1.5">{shape.name}</b>}
            page {page + 1} of {sheet.pages.length}
          </span>
          <button
            type="button"
            disabled={page + 1 === sheet.pages.length}
            onClick={() => onPage(page + 1)}
            aria-label="Next page"
          >
            ›
          </button>
        </div>
      )}
      {sheet.superseded && (
        <p role="status" className="border-t border-line bg-brick-tint px-2.5 py-1 font-semibold text-brick">
          Superseded. The current revision is {sheet.current_revision}.
        </p>
      )}
    </div>
  )
}
