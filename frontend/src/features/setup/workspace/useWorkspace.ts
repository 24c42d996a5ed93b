import { useMutation, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { fetchAnew } from '../../../api/keys'

export type Workspace = Schemas['Workspace']

/** The acts of a steward; everything about the workspace is fetched again afterwards. */
export function useWorkspaceActs() {
  const client = useQueryClient()
  const onSuccess = async () => {
    await fetchAnew(client, ['workspace', 'me', 'people'])
  }
  return {
    make: useMutation({
      mutationFn: (body: Schemas['MakeProject']) => unwrap(api.POST('/api/workspace/projects', { body })),
      onSuccess,
    }),
    changeCompany: useMutation({
      mutationFn: ({ id, ...body }: Schemas['ChangeCompany'] & { id: string }) =>
        unwrap(
          api.POST('/api/workspace/companies/{company_id}', { params: { path: { company_id: id } }, body }),
        ),
      onSuccess,
    }),
    merge: useMutation({
      mutationFn: (body: Schemas['MergeCompanies']) =>
        unwrap(api.POST('/api/workspace/companies/merge', { body })),
      onSuccess,
    }),
    resetFactor: useMutation({
      mutationFn: ({ id, ...body }: Schemas['ResetSecondFactor'] & { id: string }) =>
        unwrap(
          api.POST('/api/workspace/people/{person_id}/second-factor/reset', {
            params: { path: { person_id: id } },
            body,
          }),
        ),
      onSuccess,
    }),
    changePerson: useMutation({
      mutationFn: ({ id, ...body }: Schemas['ChangePerson'] & { id: string }) =>
        unwrap(api.POST('/api/workspace/people/{person_id}', { params: { path: { person_id: id } }, body })),
      onSuccess,
    }),
  }
}
