import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Select } from '../../ui/Field'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'

/** In which ink a discipline or a company marks. */
export function MarksSection() {
  return <WithSetup what="the colours of marks" form={Form} />
}

const FIRST = [
  { code: 'everybody', words: 'everybody who sees the sheet' },
  { code: 'company', words: 'the company of who draws' },
]
const BY = [
  { code: '', words: 'nothing: everybody as they like' },
  { code: 'discipline', words: 'the discipline of the pen' },
  { code: 'company', words: 'the company of who draws' },
]

const linesOf = (setup: Setup, by: string) =>
  by === 'discipline' ? setup.disciplines : by === 'company' ? setup.companies : []

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft('Colours of marks', setup.mark_inks, setup.version)
  const shownOf = ({ by, inks }: Setup['mark_inks']) =>
    Object.fromEntries(linesOf(setup, by).map(({ code }) => [code, inks[code] ?? '']))
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/mark-inks', {
        params: { path: { project_id: project.id } },
        // Of what is shown: a company or a discipline may have gone since.
        body: { version, by: value.by, inks: shownOf(value), offered_first: value.offered_first },
      }),
    ),
  )
  const { by, inks } = draft.value
  const lines = linesOf(setup, by)
  const any = { code: '', words: 'its pens’ own' }
  const choices = [any, ...Object.keys(setup.inks).map((name) => ({ code: name, words: name }))]
  return (
    <Section
      title="Colours of marks"
      about="For whom a mark is inked when nothing else is chosen, and in which ink pens are offered, so that a mark tells from afar whose it is. Marks that are there keep theirs."
    >
      <div data-wide className="relative min-h-0 flex-1 overflow-auto px-5 py-3">
        <div className="flex w-[320px] max-w-full flex-col gap-2">
          <Select
            label="A mark is inked first for"
            value={draft.value.offered_first ?? 'everybody'}
            disabled={!project.leads}
            onChange={(next) =>
              draft.change({ ...draft.value, offered_first: next as 'everybody' | 'company' })
            }
            choices={FIRST}
          />
          <Select
            label="The ink goes by"
            value={by}
            disabled={!project.leads}
            onChange={(next) =>
              draft.change({
                ...draft.value,
                by: next as typeof by,
                inks: next === setup.mark_inks.by ? setup.mark_inks.inks : {},
              })
            }
            choices={BY}
          />
        </div>
        {lines.length > 0 && (
          <table className="mt-4 text-list">
            <thead className="text-left text-note text-second">
              <tr>
                <th className="w-[60px] py-1.5 font-semibold">Code</th>
                <th className="w-[260px] font-semibold">{by === 'company' ? 'Company' : 'Discipline'}</th>
                <th className="w-[200px] font-semibold">Ink</th>
              </tr>
            </thead>
            <tbody>
              {lines.map(({ code, words }) => (
                <tr key={code} className="border-t border-line/60">
                  <td className="code py-1">{code}</td>
                  <th scope="row" className="text-left font-medium">
                    {words}
                  </th>
                  <td className="flex items-center gap-2 py-1">
                    <span
                      aria-hidden
                      className="size-4 shrink-0 border border-line"
                      style={{ background: setup.inks[inks[code] ?? ''] }}
                    />
                    <Select
                      hideLabel
                      label={`Ink of ${words}`}
                      value={inks[code] ?? ''}
                      disabled={!project.leads}
                      onChange={(ink) => draft.change({ ...draft.value, inks: { ...inks, [code]: ink } })}
                      choices={choices}
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
