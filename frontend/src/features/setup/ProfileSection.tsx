import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Select, TextArea, TextField } from '../../ui/Field'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'
import { DateField } from '../../ui/DateField'

const ZONES = Intl.supportedValuesOf('timeZone')

/** What the project is. */
export function ProfileSection() {
  return <WithSetup what="the project" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const draft = useDraft(
    'Project',
    { name: setup.name, time_zone: setup.time_zone, ...setup.profile },
    setup.version,
  )
  const save = useSave(draft, ({ name, time_zone, ...profile }, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/profile', {
        params: { path: { project_id: project.id } },
        body: { version, name, time_zone, profile },
      }),
    ),
  )
  const value = draft.value
  const set = (part: Partial<typeof value>) => draft.change({ ...value, ...part })
  return (
    <Section title="Project" about={`Project ${setup.number}. Due dates end with the day in its time zone.`}>
      <div className="min-h-0 flex-1 overflow-auto px-5 py-4">
        <div className="grid max-w-[760px] grid-cols-2 gap-x-5 gap-y-3">
          <TextField
            keep={draft.kept}
            label="Name"
            value={value.name}
            onChange={(event) => set({ name: event.target.value })}
          />
          <TextField
            keep={draft.kept}
            label="Type"
            placeholder="ferry terminal, school, bridge …"
            value={value.type}
            onChange={(event) => set({ type: event.target.value })}
          />
          <TextArea
            keep={draft.kept}
            label="Address"
            className="col-span-2"
            value={value.address}
            onChange={(event) => set({ address: event.target.value })}
          />
          <DateField
            keep={draft.kept}
            label="Starts"
            value={value.starts_on ?? ''}
            onChange={(day) => set({ starts_on: day || null })}
          />
          <DateField
            keep={draft.kept}
            label="Ends"
            value={value.ends_on ?? ''}
            onChange={(day) => set({ ends_on: day || null })}
          />
          <TextField
            keep={draft.kept}
            label="Value"
            inputMode="decimal"
            value={value.value}
            onChange={(event) => set({ value: event.target.value })}
          />
          <TextField
            keep={draft.kept}
            label="Currency, by its three letters"
            placeholder="GBP"
            maxLength={3}
            value={value.currency}
            onChange={(event) => set({ currency: event.target.value.toUpperCase() })}
          />
          <Select
            label="Time zone"
            value={value.time_zone}
            onChange={(time_zone) => set({ time_zone })}
            choices={[...new Set([value.time_zone, ...ZONES])].map((zone) => ({ code: zone, words: zone }))}
          />
          <Select
            label="Units"
            value={value.units}
            onChange={(units) => set({ units: units === 'imperial' ? 'imperial' : 'metric' })}
            choices={[
              { code: 'metric', words: 'metric: mm, m, m²' },
              { code: 'imperial', words: 'imperial: feet, inches and fractions' },
            ]}
          />
        </div>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
