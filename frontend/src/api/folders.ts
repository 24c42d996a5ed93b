import { useQuery } from '@tanstack/react-query'

import { api, unwrap } from './client'
import { useSeat } from './me'

/** The folders one sees; new documents of a batch go into one of them. */
export function useFolders() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['folders', project.id],
    queryFn: () => unwrap(api.GET('/api/folders', { params: { query: { project_id: project.id } } })),
  })
}
