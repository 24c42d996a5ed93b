import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from '@tanstack/react-router'

import { api, unwrap } from '../api/client'
import { useSeat } from '../api/me'
import { Button } from './Button'
import { ErrorNote } from './Notes'
import { When } from './Standing'
import { useHere } from './useHere'

interface Props {
  kind: string
  target: string
  /** How it is called here, after "Write about": "this document". */
  words: string
}

/** The letters that speak of something, for who may see them, and the way to write one; nothing without the tool. */
export function LettersAbout({ kind, target, words }: Props) {
  const { project } = useSeat()
  const on = project.tools.includes('letters')
  const found = useQuery({
    queryKey: ['letters-about', project.id, kind, target],
    queryFn: () =>
      unwrap(api.GET('/api/letters/about', { params: { query: { project_id: project.id, kind, target } } })),
    enabled: on,
  })
  if (!on) return null
  const letters = found.data?.letters ?? []
  return (
    <section aria-label="Letters about it" className="border-t border-line pt-3">
      <h3 className="mb-1 flex items-center justify-between gap-2 text-body font-semibold">
        <span>
          Letters <span className="font-normal text-second">{letters.length || ''}</span>
        </span>
        <WriteAbout kind={kind} target={target} words={words} />
      </h3>
      <ul className="text-list">
        {letters.map((each) => (
          <li key={each.id} className="mb-1">
            <Link to="/letters/$letterId" params={{ letterId: each.id }} className="text-plum underline">
              <span className="code">{each.number}</span> {each.subject}
            </Link>{' '}
            <span className="text-second">
              {each.state}, <When at={each.last_at} />
            </span>
          </li>
        ))}
      </ul>
      <ErrorNote error={found.error} />
    </section>
  )
}

function WriteAbout({ kind, target, words }: Props) {
  const { me, project } = useSeat()
  const navigate = useNavigate()
  const here = useHere()
  const write = (messageId: string) =>
    void navigate({ to: '/letters/write/$messageId', params: { messageId } })
  const begin = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/letters', { body: { project_id: project.id, kind: '', about: [{ kind, target }] } }),
      ),
    onSuccess: (begun) => here(() => write(begun.message_id)),
  })
  return (
    <>
      <Button
        small
        busy={begin.isPending}
        why={me.looker !== '' && 'You see as somebody else.'}
        onClick={() => begin.mutate()}
      >
        Write about {words} …
      </Button>
      <ErrorNote error={begin.error} />
    </>
  )
}
