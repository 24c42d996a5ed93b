import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { useHere } from '../../ui/useHere'
import { sendOnce, type Kept } from '../../ui/useKept'
import type { DraftContent } from './useTransmittals'

type DraftLine = Schemas['DraftLine']

/** Sending what is on the form, keeping it as a draft for the company, and discarding the draft. */
export function useSending(form: Kept, content: DraftContent, draft: DraftLine | undefined) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const here = useHere()
  const send = useMutation({
    mutationFn: () =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/transmittals', {
            ...more,
            body: {
              ...content,
              revisions: content.revisions ?? [],
              people: content.people ?? [],
              project_id: project.id,
              draft_id: draft?.id ?? '',
              draft_version: draft?.version ?? 0,
            },
          }),
        ),
      ),
    onSuccess: async (sent) => {
      await client.invalidateQueries()
      await here(() => navigate({ to: '/transmittals/$transmittalId', params: { transmittalId: sent.id } }))
    },
  })
  return { send, ...useDraftActs(form, content, draft) }
}

function useDraftActs(form: Kept, content: DraftContent, draft: DraftLine | undefined) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const here = useHere()
  const onSuccess = async () => {
    form.drop()
    await fetchAnew(client, ['drafts', 'due', 'trail'])
    await here(() => navigate({ to: '/transmittals' }))
  }
  const keep = useMutation<unknown>({
    mutationFn: () => {
      const body = { ...content, project_id: project.id, version: draft?.version ?? 0 }
      if (!draft)
        return sendOnce(form, (more) => unwrap(api.POST('/api/transmittals/drafts', { ...more, body })))
      const params = { path: { draft_id: draft.id } }
      return unwrap(api.PUT('/api/transmittals/drafts/{draft_id}', { params, body }))
    },
    onSuccess,
  })
  const discard = useMutation({
    mutationFn: ({ id, version }: DraftLine) =>
      unwrap(
        api.POST('/api/transmittals/drafts/{draft_id}/discard', {
          params: { path: { draft_id: id } },
          body: { version },
        }),
      ),
    onSuccess,
  })
  return { keep, discard }
}
