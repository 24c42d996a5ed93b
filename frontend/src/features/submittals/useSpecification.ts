import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { api, unwrap, unwrapAs, type Schemas } from '../../api/client'
import { fetchAnew } from '../../api/keys'
import { sendOnce, useField, useKept } from '../../ui/useKept'
import { ACT } from './useSubmittals'

export type Spec = Schemas['SpecificationRead']
export type Item = Spec['items'][number]

interface Edit {
  title?: string
  kind?: string
}

export function useSpecification(revisionId: string) {
  return useQuery({
    queryKey: ['submittal-spec', revisionId],
    queryFn: () =>
      unwrapAs<Spec>(
        api.GET('/api/submittals/specification', { params: { query: { revision_id: revisionId } } }),
      ),
  })
}

/** What is marked, what was changed of it, and for which company; kept until it is taken into the log. */
export function useTaking(spec: Spec) {
  const client = useQueryClient()
  const form = useKept('submittal-spec', spec.revision_id, spec.number)
  const [marked, setMarked] = useField<string[]>(form, 'marked', [])
  const [edits, setEdits] = useField<Record<string, Edit>>(form, 'edits', {})
  const [company, setCompany] = useField(form, 'company', '')
  const open = spec.items.filter((each) => each.standing !== 'there')
  const chosen = open.filter((each) => marked.includes(each.key))
  const as = (item: Item) => ({ title: item.title, kind: item.kind, ...edits[item.key] })
  const body = {
    revision_id: spec.revision_id,
    lines: chosen
      .filter((each) => each.standing === 'new')
      .map((each) => ({
        page: each.page,
        section: each.section,
        paragraph: each.paragraph,
        text: each.text,
        company_id: company,
        ...as(each),
      })),
    moved: chosen
      .filter((each) => each.standing === 'moved')
      .map(({ submittal_id, version, page, section, paragraph }) => ({
        submittal_id,
        version,
        page,
        section,
        paragraph,
      })),
  }
  const take = useMutation({
    mutationKey: ACT,
    mutationFn: () =>
      sendOnce(form, (more) => unwrap(api.POST('/api/submittals/specification', { ...more, body }))),
    onSettled: () => fetchAnew(client, ['submittal-spec', 'submittal', 'submittals', 'desk', 'trail', 'me']),
  })
  return {
    form,
    open,
    chosen,
    as,
    company,
    setCompany,
    take,
    lines: body.lines,
    change: (item: Item, part: Edit) => setEdits({ ...edits, [item.key]: { ...edits[item.key], ...part } }),
    mark: (items: readonly Item[], on: boolean) => {
      const keys = new Set(items.map((each) => each.key))
      setMarked([...marked.filter((each) => !keys.has(each)), ...(on ? keys : [])])
    },
  }
}

export type Taking = ReturnType<typeof useTaking>
