import { useIsMutating, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { useSeat } from '../../api/me'
import { usePages } from '../../api/pages'
import { narrowedBy, type SubmittalSearch } from './submittalSearch'

export type Line = Schemas['SubmittalLine']
export type Submittal = Schemas['SubmittalShown']
export type Details = Schemas['Details']

const PAGE = 100

export function useSubmittalLog(search: SubmittalSearch) {
  const { project } = useSeat()
  const { group, shut } = search
  const grouped = group && { group, shut: JSON.stringify(shut ?? []) }
  const query = { project_id: project.id, limit: PAGE, ...narrowedBy(search), ...grouped }
  return usePages(['submittals', project.id, query], (start) =>
    unwrap(api.GET('/api/submittals', { params: { query: { ...query, start } } })),
  )
}

export function useSubmittal(submittalId: string) {
  return useQuery({
    queryKey: ['submittal', submittalId],
    queryFn: () =>
      unwrap(api.GET('/api/submittals/{submittal_id}', { params: { path: { submittal_id: submittalId } } })),
  })
}

export function useSubmittalChoices() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['submittal-choices', project.id],
    queryFn: () =>
      unwrap(api.GET('/api/submittals/choices', { params: { query: { project_id: project.id } } })),
  })
}

/** After an act on submittals: what it may have changed. */
export function useAfterAct() {
  const client = useQueryClient()
  return () => fetchAnew(client, ['submittal', 'submittals', 'desk', 'trail', 'me'])
}

/** What an act on submittals is called while it is under way. */
export const ACT = ['submittal-act'] as const

/** Whether an act of one's own is under way: until what it made has come, another would be of what was before. */
export function useActing(): boolean {
  return useIsMutating({ mutationKey: ACT }) > 0
}

/** The acts on one submittal, each with the version that was seen. */
export function useSubmittalActs(submittalId: string) {
  const onSettled = useAfterAct()
  const mutationKey = ACT
  const path = { params: { path: { submittal_id: submittalId } } }
  return {
    prepare: useMutation({
      mutationFn: (version: number) =>
        unwrap(api.POST('/api/submittals/{submittal_id}/prepare', { ...path, body: { version } })),
      mutationKey,
      onSettled,
    }),
    copyIn: useMutation({
      mutationFn: (body: Schemas['CopyIn']) =>
        unwrap(api.POST('/api/submittals/{submittal_id}/copied', { ...path, body })),
      mutationKey,
      onSettled,
    }),
  }
}
