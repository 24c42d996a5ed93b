import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'

export type Matrix = Schemas['Distribution']
export type Holder = Schemas['MatrixHolder']
export type MatrixLine = Schemas['DistributionLine']
export type Share = '' | 'act' | 'know'

export const SHARE_WORDS: Record<Share, string> = { '': 'nothing', act: 'to act', know: 'to know' }

export const A_LINE: MatrixLine = {
  discipline: '',
  form: '',
  status: '',
  when: 'filed',
  purpose: 'information',
  since: null,
  by_itself: false,
  shares: [],
}

export function useMatrix() {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['distribution', project.id],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/distribution', { params: { path: { project_id: project.id } } }),
      ),
  })
}

/** What the matrix would make due as it is being edited. */
export function useTried(lines: readonly MatrixLine[], dirty: boolean) {
  const { project } = useSeat()
  return useQuery({
    queryKey: ['distribution-tried', project.id, lines],
    queryFn: () =>
      unwrap(
        api.POST('/api/projects/{project_id}/distribution/try', {
          params: { path: { project_id: project.id } },
          body: { lines: [...lines] },
        }),
      ),
    enabled: dirty,
    retry: false,
    placeholderData: (before) => before,
  })
}

export function shareOf(line: MatrixLine, holder: Holder): Share {
  return line.shares?.find((each) => each.kind === holder.kind && each.id === holder.id)?.share ?? ''
}

export function withShare(line: MatrixLine, holder: Holder, share: Share): MatrixLine {
  const others = (line.shares ?? []).filter((each) => each.kind !== holder.kind || each.id !== holder.id)
  if (!share) return { ...line, shares: others }
  return { ...line, shares: [...others, { kind: holder.kind as 'company', id: holder.id, share }] }
}

/** A line in words: which documents, and from when on. */
export function lineWords(line: MatrixLine, matrix: Matrix): string {
  const named = (code: string, choices: Matrix['forms'], any: string) =>
    choices.find((each) => each.code === code)?.words ?? (code || any)
  const what = `${named(line.discipline ?? '', matrix.disciplines, 'All disciplines')}, ${named(line.form ?? '', matrix.forms, 'all forms').toLowerCase()}`
  const at = line.status ? ` at ${line.status}` : ''
  return `${what}${at}, ${named(line.when ?? 'filed', matrix.whens, '')}`
}
