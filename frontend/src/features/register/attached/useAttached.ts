import { keepPreviousData, useQuery } from '@tanstack/react-query'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'

/** Attached files by words of their names, of all folders or of some and those below: ids with commas between. */
export function useAttached(words: string, folders: string, enabled = true) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['attached', project.id, words, folders],
    enabled,
    queryFn: () =>
      unwrap(api.GET('/api/attachments', { params: { query: { project_id: project.id, words, folders } } })),
    placeholderData: keepPreviousData,
  })
}
