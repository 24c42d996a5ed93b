import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { useHere } from '../../ui/useHere'
import { sendOnce, type Kept } from '../../ui/useKept'
import type { DraftContent } from './useTransmittals'

type DraftLine = Schemas['DraftLine']

/** What sending would send, as the server has it; nothing is sent. */
function bodyOf(content: DraftContent, projectId: string, draft: DraftLine | undefined) {
  return {
    ...content,
    revisions: content.revisions ?? [],
    people: content.people ?? [],
    project_id: projectId,
    draft_id: draft?.id ?? '',
    draft_version: draft?.version ?? 0,
  }
}

/** The mail, and the cover sheet as a file of this page, before they are sent. */
export function usePreview(content: DraftContent, draft: DraftLine | undefined) {
  const { project } = useSeat()
  const body = bodyOf(content, project.id, draft)
  const mail = useMutation({ mutationFn: () => unwrap(api.POST('/api/transmittals/preview', { body })) })
  const cover = useMutation({
    mutationFn: async () =>
      URL.createObjectURL(
        await unwrapAs<Blob>(api.POST('/api/transmittals/preview/cover', { body, parseAs: 'blob' })),
      ),
  })
  return { mail, cover }
}

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
            body: bodyOf(content, project.id, draft),
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
