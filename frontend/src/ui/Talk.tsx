import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap } from '../api/client'
import { WAITING } from '../api/waiting'
import { ErrorNote, Loading } from './Notes'
import { Said } from './Said'
import { SayField, type Saying } from './SayField'
import { sendOnce } from './useKept'

const LOOK_AGAIN_MS = 2000

export function useTalk(kind: string, target: string) {
  const params = { path: { kind, target } }
  return useQuery({
    queryKey: ['talk', target, kind],
    queryFn: () => unwrap(api.GET('/api/talk/{kind}/{target}', { params })),
    // Until its files have been looked into.
    refetchInterval: (query) =>
      query.state.data?.said.some((said) => said.attachments.some((each) => each.waiting))
        ? LOOK_AGAIN_MS
        : false,
  })
}

interface Props {
  kind: string
  target: string
  /** How it is called here: "this document". */
  words: string
  /** The code of the revision on the screen, if there is one. */
  revision?: string
}

/** What is said about a thing, the earlier first, and a field to say more. */
export function Talk({ kind, target, words, revision = '' }: Props) {
  const client = useQueryClient()
  const talk = useTalk(kind, target)
  const say = useMutation({
    ...WAITING,
    mutationFn: ({ form, ...body }: Saying) =>
      sendOnce(form, (more) =>
        unwrap(api.POST('/api/talk/{kind}/{target}', { params: { path: { kind, target } }, ...more, body })),
      ),
    onSuccess: (answer) => client.setQueryData(['talk', target, kind], answer),
  })
  if (!talk.data)
    return talk.error ? (
      <ErrorNote error={talk.error} again={() => void talk.refetch()} />
    ) : (
      <Loading what="the talk" />
    )
  const { said, people, may_talk } = talk.data
  return (
    <div className="flex flex-col gap-2">
      {!said.length && (
        <p className="text-second">
          Nobody has said anything about {words} yet.{' '}
          {may_talk && 'Everybody who sees it can read what you say.'}
        </p>
      )}
      <div role="log" aria-label={`Talk about ${words}`}>
        {said.map((each) => (
          <Said key={each.id} said={each} revision={revision} />
        ))}
      </div>
      <ErrorNote error={say.error} />
      {may_talk ? (
        <SayField
          // What is on its way belongs to the thing that was open then.
          key={`${kind} ${target}`}
          of={`talk ${kind} ${target}`}
          label="Say something"
          button="Say it"
          people={people}
          busy={say.isPending}
          waiting={say.isPaused || (say.isPending && say.failureCount > 0)}
          on={{ kind, target }}
          onSay={(said) => say.mutate(said)}
        />
      ) : (
        <p className="text-second">You may read this, and not write here.</p>
      )}
    </div>
  )
}
