import { useQuery } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { counted } from '../../domain/counted'
import { Checkbox } from '../../ui/Checkbox'
import { Select } from '../../ui/Field'
import { Input } from '../../ui/Input'
import { CodeRows, type CodeWords } from './CodeRows'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'

type Verdict = Schemas['VerdictSet']

const SCHEMES = [
  { code: 'staged', words: 'P01, P02 … then C01, C02 …' },
  { code: 'letters', words: 'A, B, C … without I and O' },
  { code: 'numbers', words: '0, 1, 2 …' },
]
const MEANINGS = [
  { code: 'go', words: 'go' },
  { code: 'look', words: 'look' },
  { code: 'stop', words: 'stop' },
]

/** Every status with what it may be used for; one that nothing was said of is only received. */
function saidOf({ statuses, status_uses: uses }: Pick<Setup, 'statuses' | 'status_uses'>) {
  return Object.fromEntries(statuses.map(({ code }) => [code, uses[code] ?? 'received']))
}

/** Revision scheme, statuses, verdicts. */
export function CodesSection() {
  return <WithSetup what="the codes" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft(
    'Revisions, statuses, verdicts',
    {
      revision_scheme: setup.revision_scheme as 'staged',
      statuses: setup.statuses,
      reviewed_statuses: setup.reviewed_statuses,
      status_uses: setup.status_uses,
      verdict_set: setup.verdict_set,
    },
    setup.version,
  )
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/codes', {
        params: { path: { project_id: project.id } },
        body: { version, ...value, status_uses: saidOf(value) },
      }),
    ),
  )
  const value = draft.value
  const set = (part: Partial<typeof value>) => draft.change({ ...value, ...part })
  const setVerdict = (place: number, part: Partial<Verdict>) =>
    set({ verdict_set: value.verdict_set.map((each, at) => (at === place ? { ...each, ...part } : each)) })
  return (
    <Section
      title="Revisions, statuses, verdicts"
      about="Codes that documents have cannot be taken away: nothing in the register is rewritten."
    >
      <div className="grid min-h-0 flex-1 overflow-auto min-[1760px]:grid-cols-2">
        <div className="max-w-[860px] px-5 py-3">
          <Select
            label="Revisions go"
            value={value.revision_scheme}
            onChange={(scheme) => set({ revision_scheme: scheme as 'staged' })}
            choices={SCHEMES}
          />
          <h2 className="mt-4 font-semibold">Statuses</h2>
          <p className="mb-1 text-note text-second">
            In force is the last revision that may be built from; where there is none, the last that may be
            referred to.
          </p>
          <CodeRows
            keep={draft.kept}
            what="status"
            rows={value.statuses}
            onChange={(statuses) => set({ statuses })}
            extra={(place) => {
              const code = value.statuses[place]?.code ?? ''
              const others = value.reviewed_statuses.filter((each) => each !== code)
              return (
                <span className="flex shrink-0 items-center gap-2.5 text-list">
                  <Select
                    hideLabel
                    label={`What ${code || 'the new status'} may be used for`}
                    className="w-[150px] shrink-0"
                    value={value.status_uses[code] ?? 'received'}
                    onChange={(use) => set({ status_uses: { ...value.status_uses, [code]: use } })}
                    choices={setup.uses}
                  />
                  <Checkbox
                    label="by review"
                    checked={value.reviewed_statuses.includes(code)}
                    onChange={(on) => set({ reviewed_statuses: on ? [...others, code] : others })}
                  />
                </span>
              )
            }}
          />
        </div>
        <div className="max-w-[860px] px-5 py-3">
          <h2 className="font-semibold">Verdicts, the mildest first</h2>
          <p className="mb-1 text-note text-second">
            Where several are given, the one further down counts. Running reviews keep the set they began
            with. Verdicts with a set of their own, by its name, are for steps of routes that say so.
          </p>
          <CodeRows
            keep={draft.kept}
            what="verdict"
            rows={value.verdict_set}
            onChange={(rows: CodeWords[]) => set({ verdict_set: rows as Verdict[] })}
            blank={() =>
              ({
                code: '',
                words: '',
                meaning: 'look',
                may_be_used: false,
                needs_new_revision: true,
                of_set: value.verdict_set.at(-1)?.of_set ?? '',
              }) as Verdict
            }
            extra={(place) => {
              const verdict = value.verdict_set[place]
              if (!verdict) return null
              return (
                <span className="flex flex-wrap items-center gap-x-2.5 gap-y-1 text-list md:shrink-0">
                  <Select
                    hideLabel
                    label={`What ${verdict.code} means`}
                    className="w-[72px] shrink-0"
                    value={verdict.meaning}
                    onChange={(meaning) => setVerdict(place, { meaning: meaning as Verdict['meaning'] })}
                    choices={MEANINGS}
                  />
                  <Input
                    keep={draft.kept}
                    small
                    aria-label={`The set of ${verdict.code}`}
                    placeholder="usual set"
                    className="w-[92px] shrink-0"
                    value={verdict.of_set ?? ''}
                    onChange={(event) => setVerdict(place, { of_set: event.target.value })}
                  />
                  <Checkbox
                    label="may be used"
                    checked={verdict.may_be_used}
                    onChange={(may_be_used) => setVerdict(place, { may_be_used })}
                  />
                  <Checkbox
                    label="new revision"
                    checked={verdict.needs_new_revision}
                    onChange={(needs_new_revision) => setVerdict(place, { needs_new_revision })}
                  />
                </span>
              )
            }}
          />
        </div>
      </div>
      <UsesTried uses={value.status_uses} changed={value.status_uses !== setup.status_uses} />
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}

/** What saving would do to what is in force, before it is saved. */
function UsesTried({ uses, changed }: { uses: Record<string, string>; changed: boolean }) {
  const { project } = useSeat()
  const tried = useQuery({
    queryKey: ['uses-tried', project.id, uses],
    queryFn: () =>
      unwrap(
        api.POST('/api/projects/{project_id}/codes/try', {
          params: { path: { project_id: project.id } },
          body: { status_uses: uses },
        }),
      ),
    enabled: changed,
  })
  if (!changed || !tried.data?.changes) return null
  return (
    <p
      role="status"
      className="border-t border-line bg-ochre-tint px-5 py-1.5 text-list font-semibold text-ochre"
    >
      When this is saved, another revision than now is in force of {counted(tried.data.changes, 'document')}.
    </p>
  )
}
