import { useQuery } from '@tanstack/react-query'

import { api, unwrap } from '../api/client'
import { useSeat } from '../api/me'

/** The project's routes, retired ones with them. */
export function useRoutes() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['routes', project.id],
    queryFn: () => unwrap(api.GET('/api/routes', { params: { query: { project_id: project.id } } })),
  })
}
