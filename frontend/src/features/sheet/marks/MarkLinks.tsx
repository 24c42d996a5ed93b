import { useQuery } from '@tanstack/react-query'
import { Link2, X } from 'lucide-react'
import { useId, useState } from 'react'

import { api, unwrapAs, type Schemas } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { IconButton } from '../../../ui/IconButton'
import { Input } from '../../../ui/Input'
import { ThingLink } from '../../../ui/ThingLink'
import type { Mark, Marks } from './useMarks'

type Target = Schemas['Thing']

interface Props {
  mark: Mark
  service: Marks
  mayMark: boolean
  revisionId: string
}

/** What a mark is linked to, and the way to link it to something more. */
export function MarkLinks({ mark, service, mayMark, revisionId }: Props) {
  const [adding, setAdding] = useState(false)
  if (!mark.links.length && !mayMark) return null
  return (
    <div className="mt-2">
      {mark.links.length > 0 && (
        <ul aria-label="Links">
          {mark.links.map((link) => (
            <li key={link.id} className="flex items-center gap-1">
              <Link2 size={14} aria-hidden className="shrink-0 text-second" />
              <ThingLink thing={link} className="min-w-0 flex-1 leading-snug break-words" />
              {link.mine && (
                <IconButton
                  label={`Take away the link to ${link.words}`}
                  icon={<X size={14} aria-hidden />}
                  onClick={() => service.unlink.mutate({ mark, linkId: link.id })}
                />
              )}
            </li>
          ))}
        </ul>
      )}
      {mayMark &&
        (adding ? (
          <AddLink mark={mark} service={service} revisionId={revisionId} onDone={() => setAdding(false)} />
        ) : (
          <Button small onClick={() => setAdding(true)}>
            Link to …
          </Button>
        ))}
    </div>
  )
}

interface AddProps {
  mark: Mark
  service: Marks
  revisionId: string
  onDone: () => void
}

/** Words bring what they may mean; arrows choose, Enter links. */
function AddLink({ mark, service, revisionId, onDone }: AddProps) {
  const [words, setWords] = useState('')
  const [at, setAt] = useState(0)
  const list = useId()
  const asked = words.trim()
  const found = useQuery({
    queryKey: ['link-targets', revisionId, asked],
    queryFn: () =>
      unwrapAs<Schemas['LinkTargets']>(
        api.GET('/api/sheets/{revision_id}/link-targets', {
          params: { path: { revision_id: revisionId }, query: { words: asked } },
        }),
      ),
    enabled: asked.length > 1,
    placeholderData: (before) => before,
  })
  const targets = asked.length > 1 ? (found.data?.targets ?? []) : []
  const choose = (target: Target | undefined) => {
    if (!target) return
    service.link.mutate({ mark, target })
    onDone()
  }
  return (
    <div className="relative">
      <Input
        keep="passing"
        small
        role="combobox"
        aria-label="Link to"
        aria-expanded={targets.length > 0}
        aria-controls={list}
        aria-activedescendant={targets[at] ? `${list}-${at}` : undefined}
        // The field is opened to type into it.
        // eslint-disable-next-line jsx-a11y/no-autofocus
        autoFocus
        placeholder="Number, title or https://…"
        value={words}
        onChange={(event) => {
          setWords(event.target.value)
          setAt(0)
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt(Math.min(at + 1, targets.length - 1))
          else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
          else if (event.key === 'Enter') choose(targets[at])
          else if (event.key === 'Escape') onDone()
          else return
          event.preventDefault()
          event.stopPropagation()
        }}
      />
      <p role="status" className="text-note text-second">
        {asked.length > 1 &&
          found.data &&
          !targets.length &&
          'Nothing of that name. A web address begins with https://.'}
      </p>
      <ul
        role="listbox"
        id={list}
        aria-label="What it may be"
        className={targets.length ? 'border border-line bg-surface' : ''}
      >
        {targets.map((target, place) => (
          // The keys are those of the field above.
          // eslint-disable-next-line jsx-a11y/click-events-have-key-events
          <li
            key={`${target.kind} ${target.target}`}
            id={`${list}-${place}`}
            role="option"
            tabIndex={-1}
            aria-selected={place === at}
            className="cursor-pointer px-2 py-1 leading-snug break-words hover:bg-paper aria-selected:bg-plum-tint"
            onClick={() => choose(target)}
          >
            {target.words} <span className="text-second">{target.kind_words}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}
