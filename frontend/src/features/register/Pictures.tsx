import { useEffect, useRef } from 'react'

import { VerdictMark } from '../../ui/Stamp'
import type { DocumentLine } from './useRegister'

interface Props {
  rows: readonly DocumentLine[]
  openId: string | undefined
  marked: Pick<ReadonlySet<string>, 'has'>
  onMark: (ids: string[], on: boolean) => void
  onShow: (row: DocumentLine) => void
  onGo: (row: DocumentLine) => void
  onNearEnd: () => void
}

/** The list as the sheets look, for eyes that know a drawing by its shape. */
export function Pictures({ rows, openId, marked, onMark, onShow, onGo, onNearEnd }: Props) {
  const end = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!end.current) return
    const watch = new IntersectionObserver((seen) => seen.some((each) => each.isIntersecting) && onNearEnd())
    watch.observe(end.current)
    return () => watch.disconnect()
  }, [onNearEnd, rows.length])
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <ul aria-label="Documents" className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-4">
        {rows.map((row) => (
          <li
            key={`${row.id} ${row.group}`}
            className={`relative border ${openId === row.id ? 'border-plum' : 'border-line'} bg-surface`}
            style={{ contentVisibility: 'auto', containIntrinsicSize: '190px 210px' }}
          >
            <button
              type="button"
              className="block w-full text-left"
              onClick={() => onShow(row)}
              onDoubleClick={() => onGo(row)}
            >
              {row.kind === 'sheet' ? (
                <img
                  loading="lazy"
                  src={`/api/sheets/${row.revision_id}/thumbnail`}
                  alt=""
                  className="h-[130px] w-full border-b border-line bg-white object-contain"
                />
              ) : (
                <span className="flex h-[130px] items-center justify-center border-b border-line text-second">
                  {row.file_name.split('.').at(-1)}
                </span>
              )}
              <span className="block px-2 pt-1.5">
                <span className="code block truncate text-note">{row.number}</span>
                <span className="block truncate text-list">{row.title}</span>
                <span className="flex items-center gap-2 pb-1.5 text-note">
                  <span className="code font-bold">{row.revision}</span>
                  <span className="code text-second">{row.status}</span>
                  <VerdictMark code={row.verdict} />
                </span>
              </span>
            </button>
            <label className="absolute top-0 left-0 flex size-8 items-center justify-center">
              <input
                type="checkbox"
                aria-label={`Mark ${row.number}`}
                className="size-4 accent-plum"
                checked={marked.has(row.id)}
                onChange={(event) => onMark([row.id], event.target.checked)}
              />
            </label>
          </li>
        ))}
      </ul>
      <div ref={end} className="h-4" />
    </div>
  )
}
