import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Select } from '../../ui/Field'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'

/** How groups are told of what. */
export function NoticesSection() {
  return <WithSetup what="the notices" form={Form} />
}

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const server = Object.fromEntries(setup.notices.map((each) => [each.role, each.hows]))
  const draft = useDraft<Record<string, Record<string, string>>>('Notices', server, setup.version)
  const save = useSave(draft, (hows, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/notices', {
        params: { path: { project_id: project.id } },
        body: { version, hows },
      }),
    ),
  )
  return (
    <Section
      title="Notices"
      about="For everybody of a role who has not set their own. Nobody is told of their own act."
    >
      <div data-wide className="relative min-h-0 flex-1 overflow-auto px-5 py-3">
        <table className="text-list">
          <thead className="text-left text-note text-second">
            <tr>
              <th className="w-[180px] py-1.5 font-semibold">Role</th>
              {setup.notice_kinds.map((kind) => (
                <th key={kind.code} className="w-[220px] px-2 font-semibold">
                  {kind.words}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {setup.notices.map((role) => (
              <tr key={role.role} className="border-t border-line/60">
                <th scope="row" className="py-1.5 text-left font-medium">
                  {role.name}
                </th>
                {setup.notice_kinds.map((kind) => (
                  <td key={kind.code} className="px-2 py-1">
                    <Select
                      hideLabel
                      label={`${role.name}: ${kind.words}`}
                      value={draft.value[role.role]?.[kind.code] ?? 'now'}
                      onChange={(how) =>
                        draft.change({
                          ...draft.value,
                          [role.role]: { ...draft.value[role.role], [kind.code]: how },
                        })
                      }
                      choices={setup.notice_hows.filter(({ code }) => kind.hows.includes(code))}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
