import { Trash2 } from 'lucide-react'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Input } from '../../ui/Input'
import { ErrorNote, Loading } from '../../ui/Notes'
import { IconButton } from '../../ui/IconButton'
import { SaveBar, Section } from './Section'
import { useDraft, useSave, useSetup } from './useSetup'
import { usePeople, type People } from './people/usePeople'
import { isLost } from '../../api/fetched'
import { useNewLine } from '../../ui/useNewLine'

/** Which tools the project has, and what each role brings. */
export function RolesSection() {
  const people = usePeople()
  const setup = useSetup()
  if (isLost(people) || isLost(setup)) return <ErrorNote error={people.error ?? setup.error} />
  if (!people.data || !setup.data) return <Loading what="the roles" />
  return <Form people={people.data} version={setup.data.version} />
}

function Form({ people, version }: { people: People; version: number }) {
  const { project } = useSeat()
  const own = people.roles.filter((role) => !role.fixed)
  const draft = useDraft(
    'Roles and tools',
    {
      roles: own.map(({ code, name, tools }) => ({ code, name, tools })),
      tools: people.tools.filter((tool) => tool.on).map((tool) => tool.code),
    },
    version,
  )
  const save = useSave(draft, (value, seen) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/roles', {
        params: { path: { project_id: project.id } },
        body: { version: seen, ...value },
      }),
    ),
  )
  const { roles, tools } = draft.value
  const level = (code: string) => people.roles.find((role) => role.code === code)
  const change = (place: number, part: Partial<(typeof roles)[number]>) =>
    draft.change({ tools, roles: roles.map((each, at) => (at === place ? { ...each, ...part } : each)) })
  const { list, added } = useNewLine<HTMLTableSectionElement>()
  return (
    <Section
      title="Roles and tools"
      about="A role brings tools, and the level it has in the topmost folder. A setting on a person goes before it."
    >
      <div data-wide className="relative min-h-0 flex-1 overflow-auto px-5 py-3">
        <fieldset className="mb-5">
          <legend className="mb-1 font-semibold">Tools of this project</legend>
          <p className="mb-1 text-note text-second">What is off is not in the line, for anybody.</p>
          <div className="flex flex-wrap gap-x-5 gap-y-1">
            {people.tools.map((tool) => (
              <Checkbox
                key={tool.code}
                label={tool.words}
                checked={tools.includes(tool.code)}
                disabled={!project.leads}
                onChange={(on) =>
                  draft.change({
                    roles,
                    tools: on ? [...tools, tool.code] : tools.filter((each) => each !== tool.code),
                  })
                }
              />
            ))}
          </div>
        </fieldset>
        <h2 className="mb-1 font-semibold">Roles</h2>
        <table className="text-list">
          <thead className="text-left text-note text-second">
            <tr>
              <th className="w-[230px] py-1 font-semibold">Role</th>
              <th className="w-[80px] px-2 font-semibold">People</th>
              <th className="w-[150px] px-2 font-semibold">Level</th>
              <th className="w-[260px] px-2 font-semibold">Tools</th>
              <th className="w-[40px]">
                <span className="sr-only">Acts</span>
              </th>
            </tr>
          </thead>
          <tbody ref={list}>
            {people.roles
              .filter((role) => role.fixed)
              .map((role) => (
                <tr key={role.code} className="border-t border-line/60">
                  <td className="py-1.5 font-medium">{role.name}</td>
                  <td className="px-2">{role.people}</td>
                  <td className="px-2">keep, everywhere</td>
                  <td className="px-2 text-second">all that are on</td>
                  <td />
                </tr>
              ))}
            {roles.map((role, place) => (
              <tr key={place} className="border-t border-line/60">
                <td className="py-1">
                  <Input
                    keep={draft.kept}
                    small
                    aria-label={`Name of the role ${role.name}`}
                    className="w-[210px]"
                    value={role.name}
                    disabled={!project.leads}
                    onChange={(event) => change(place, { name: event.target.value })}
                  />
                </td>
                <td className="px-2">{level(role.code)?.people ?? 0}</td>
                <td className="px-2">{level(role.code)?.level ?? 'none yet'}</td>
                <td className="px-2">
                  <span className="flex gap-4">
                    {people.tools.map((tool) => (
                      <Checkbox
                        key={tool.code}
                        label={tool.words}
                        disabled={!project.leads}
                        checked={role.tools.includes(tool.code)}
                        onChange={(on) =>
                          change(place, {
                            tools: on
                              ? [...role.tools, tool.code]
                              : role.tools.filter((each) => each !== tool.code),
                          })
                        }
                      />
                    ))}
                  </span>
                </td>
                <td>
                  {project.leads && (
                    <IconButton
                      label={`Take the role ${role.name} away`}
                      icon={<Trash2 size={14} />}
                      onClick={() => draft.change({ tools, roles: roles.filter((_, at) => at !== place) })}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {project.leads && (
          <Button
            small
            className="mt-2"
            onClick={() => {
              added()
              draft.change({ tools, roles: [...roles, { code: '', name: '', tools }] })
            }}
          >
            Add a role
          </Button>
        )}
        <p className="mt-3 text-second">
          Levels of roles are set in Folders and access, across roles, in the topmost folder or any other.
        </p>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
