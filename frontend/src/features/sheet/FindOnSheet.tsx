import { ChevronDown, ChevronUp, X } from 'lucide-react'
import { useState } from 'react'

import { IconButton } from '../../ui/IconButton'
import { Input } from '../../ui/Input'
import { ErrorNote } from '../../ui/Notes'
import { useFoundWords, type Hit } from './useSheetWords'
import type { Way } from './useWays'

interface Props {
  revisionId: string
  ways: readonly Way[]
  onShow: (hit: Hit) => void
  onClose: () => void
}

/** Words on the sheet: a list of where they stand, gone through with Enter. */
export function FindOnSheet({ revisionId, ways, onShow, onClose }: Props) {
  const [words, setWords] = useState('')
  const [at, setAt] = useState<number | null>(null)
  const found = useFoundWords(revisionId, words)
  const hits = words.trim().length > 1 ? (found.data?.hits ?? []) : []

  function step(by: number) {
    if (!hits.length) return
    show(((at ?? (by > 0 ? -1 : 0)) + by + hits.length) % hits.length)
  }

  function show(place: number) {
    const hit = hits[place]
    if (!hit) return
    setAt(place)
    onShow(hit)
  }

  return (
    <section
      aria-label="Find on the sheet"
      data-panel
      className="absolute top-[170px] left-3 flex max-h-[45%] w-[330px] flex-col border border-second bg-surface text-list"
    >
      <div className="flex items-center gap-1 border-b border-line px-2 py-1.5">
        <Input
          keep="passing"
          small
          // The panel is opened to type into it.
          // eslint-disable-next-line jsx-a11y/no-autofocus
          autoFocus
          aria-label="Words on the sheet"
          placeholder="Words on the sheet"
          value={words}
          onChange={(event) => {
            setWords(event.target.value)
            setAt(null)
          }}
          onKeyDown={(event) => {
            if (event.key === 'Enter') step(event.shiftKey ? -1 : 1)
            if (event.key === 'Escape') onClose()
          }}
          className="min-w-0 flex-1"
        />
        <IconButton
          label="Place before"
          icon={<ChevronUp size={15} aria-hidden />}
          disabled={!hits.length}
          onClick={() => step(-1)}
        />
        <IconButton
          label="Next place"
          icon={<ChevronDown size={15} aria-hidden />}
          disabled={!hits.length}
          onClick={() => step(1)}
        />
        <IconButton label="Close" icon={<X size={15} aria-hidden />} onClick={onClose} />
      </div>
      <ErrorNote error={found.error} />
      <p role="status" className="px-2.5 py-1 text-second">
        {tellingOf(words, found.data, at)}
      </p>
      {words === '' && <WayList ways={ways} />}
      <ol className="min-h-0 overflow-auto">
        {hits.map((hit, place) => (
          <li key={place}>
            <button
              type="button"
              aria-current={place === at}
              className="block w-full truncate px-2.5 py-1 text-left hover:bg-paper aria-[current=true]:bg-plum-tint"
              onClick={() => show(place)}
            >
              {hit.page > 0 && <span className="text-second">p {hit.page + 1} · </span>}
              {hit.words}
            </button>
          </li>
        ))}
      </ol>
    </section>
  )
}

/** Where the page leads, each once; on the sheet the same places are underlined. */
function WayList({ ways }: { ways: readonly Way[] }) {
  const once = [...new Map(ways.map((way) => [way.words, way])).values()]
  if (!once.length) return null
  return (
    <>
      <h2 className="border-t border-line px-2.5 pt-1.5 text-note font-semibold text-second">
        This page leads to
      </h2>
      <ul className="min-h-0 overflow-auto pb-1">
        {once.map((way) => (
          <li key={way.words}>
            <button
              type="button"
              title={way.words}
              className="block w-full truncate px-2.5 py-1 text-left hover:bg-paper"
              onClick={way.go}
            >
              {way.words}
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}

interface Found {
  hits: Hit[]
  more: boolean
  has_words: boolean
}

function tellingOf(words: string, found: Found | undefined, at: number | null): string {
  if (words.trim().length < 2) return 'Two letters or more. Enter goes from place to place.'
  if (!found) return 'Looking …'
  if (!found.has_words) return 'This sheet is a scan: it has no words.'
  if (!found.hits.length) return 'The sheet does not say that.'
  const count = `${found.hits.length}${found.more ? ' and more' : ''}`
  if (at === null) return `${count} ${found.hits.length === 1 ? 'place' : 'places'}`
  return `${at + 1} of ${count}`
}
