import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Checkbox } from '../../ui/Checkbox'
import { Empty } from '../../ui/Notes'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'

/** Of which forms a native is asked beside the PDF. */
export function NativesSection() {
  return <WithSetup what="the natives asked for" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft('Natives', setup.native_forms, setup.version)
  const save = useSave(draft, (forms, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/natives', {
        params: { path: { project_id: project.id } },
        body: { version, forms },
      }),
    ),
  )
  const toggle = (code: string, asked: boolean) =>
    draft.change(asked ? [...draft.value, code] : draft.value.filter((each) => each !== code))
  return (
    <Section
      title="Natives"
      about="Where a PDF of one of these comes without its native (DWG, DXF, DOCX …), Intake says so. It can be registered all the same, and the native filed beside it later."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        {setup.forms.length === 0 ? (
          <Empty>The numbers of this project say no form, so that no native can be asked for.</Empty>
        ) : (
          <fieldset className="flex flex-col gap-2">
            <legend className="mb-2 text-note font-semibold text-second">Ask for the native of every</legend>
            {setup.forms.map(({ code, words }) => (
              <Checkbox
                key={code}
                label={`${code}  ${words}`}
                checked={draft.value.includes(code)}
                disabled={!project.leads}
                onChange={(asked) => toggle(code, asked)}
              />
            ))}
          </fieldset>
        )}
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
