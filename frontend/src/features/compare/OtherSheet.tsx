import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Input } from '../../ui/Input'

interface Props {
  label: string
  onPick: (revisionId: string) => void
}

/** Another sheet by its number or title, to be laid over. */
export function OtherSheet({ label, onPick }: Props) {
  const { project } = useSeat()
  const [words, setWords] = useState('')
  const found = useQuery({
    queryKey: ['find', project.id, words],
    queryFn: () =>
      unwrap(api.GET('/api/search', { params: { query: { project_id: project.id, words, limit: 8 } } })),
    enabled: words.trim().length > 1,
    placeholderData: (previous) => previous,
  })
  const hits = words.trim().length > 1 ? (found.data?.documents ?? []) : []
  return (
    <div className="border-t border-line px-2.5 py-1.5">
      <Input
        keep="passing"
        small
        aria-label={label}
        placeholder={label}
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      {hits.length > 0 && (
        <ul className="mt-1 max-h-40 overflow-auto">
          {hits.map((hit) => (
            <li key={hit.revision_id}>
              <button
                type="button"
                className="block w-full truncate py-0.5 text-left hover:text-plum"
                onClick={() => {
                  setWords('')
                  onPick(hit.revision_id)
                }}
              >
                <span className="code">{hit.number}</span> {hit.title}
              </button>
            </li>
          ))}
        </ul>
      )}
      {words.trim().length > 1 && found.data && !hits.length && (
        <p className="text-second">No document is called that.</p>
      )}
    </div>
  )
}
