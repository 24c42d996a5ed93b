import { useQuery } from '@tanstack/react-query'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'

/** People, roles and companies that can be told of what is registered. */
export function useTellable() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['batches', project.id, 'tellable'],
    queryFn: () => unwrap(api.GET('/api/intake/tellable', { params: { query: { project_id: project.id } } })),
  })
}

export type Tellable = NonNullable<ReturnType<typeof useTellable>['data']>
