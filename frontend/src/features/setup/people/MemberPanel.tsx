import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { Refused } from '../../../api/problems'
import { Button } from '../../../ui/Button'
import { Checkbox } from '../../../ui/Checkbox'
import { Select, TextField } from '../../../ui/Field'
import { ErrorNote } from '../../../ui/Notes'
import { Panel } from '../../../ui/Panel'
import { Tabs } from '../../../ui/Tabs'
import { Timeline } from '../../../ui/Trail'
import { STATES, useMemberActs, type MemberLine, type People } from './usePeople'
import { useField, useKept } from '../../../ui/useKept'

interface Props {
  member: MemberLine
  people: People
  onClose: () => void
}

/** One person in the project: roles and tools, the invitation, and leaving. */
export function MemberPanel({ member, people, onClose }: Props) {
  return (
    <Panel label="Person" onClose={onClose} width={400}>
      <header className="px-4 pt-3 pr-10 pb-2">
        <h2 className="text-head leading-snug font-semibold">{member.who.name}</h2>
        <p className="text-list text-second">
          {member.company_name}, {STATES[member.state]}
        </p>
      </header>
      <Tabs
        label="Person"
        tabs={[
          { key: 'now', words: 'Now', content: <Now member={member} people={people} onClose={onClose} /> },
          { key: 'trail', words: 'Trail', content: <Timeline subjectId={member.who.id} /> },
        ]}
      />
    </Panel>
  )
}

function Now({ member, people, onClose }: Props) {
  const { project } = useSeat()
  const form = useKept('member', `${project.id} ${member.who.id}`, member.who.name)
  const [roles, setRoles] = useField(form, 'roles', member.roles)
  const [ownTools, setOwnTools] = useField(form, 'ownTools', member.own_tools ? member.tools : null)
  const [job, setJob] = useField(form, 'job', member.who.job)
  const [removing, setRemoving] = useState(false)
  const { change, invite } = useMemberActs(member.who.id)
  const brought = people.roles.filter((role) => roles.includes(role.code)).flatMap((role) => role.tools)
  const tools = ownTools ?? brought
  const keepsAll = roles.includes('lead') || roles.includes('controller')
  const lastTool = change.error instanceof Refused && change.error.problem.code === 'last_tool'
  const may = project.leads && member.state !== 'removed'
  const save = (even_without_tools: boolean) =>
    change.mutate(
      {
        version: member.version,
        roles,
        tools: keepsAll ? null : ownTools,
        job,
        even_without_tools,
      },
      { onSuccess: form.drop },
    )
  return (
    <div className="flex flex-col gap-4">
      <p className="code text-list break-all">{member.email}</p>
      {member.state === 'invited' && (
        <div className="flex items-center gap-3 bg-ochre-tint px-3 py-2 text-ochre">
          <span className="flex-1">Has not accepted the invitation yet.</span>
          {project.leads && (
            <Button small busy={invite.isPending} onClick={() => invite.mutate()}>
              {invite.isSuccess ? 'Sent again' : 'Send it again'}
            </Button>
          )}
        </div>
      )}
      <TextField
        keep={form}
        label="Job"
        value={job}
        disabled={!may}
        onChange={(event) => setJob(event.target.value)}
      />
      {member.state !== 'contact' && (
        <>
          <fieldset>
            <legend className="mb-1 text-note font-medium text-second">Roles</legend>
            <div className="grid grid-cols-2 gap-1">
              {people.roles.map((role) => (
                <Checkbox
                  key={role.code}
                  label={role.name}
                  disabled={!may}
                  checked={roles.includes(role.code)}
                  onChange={(on) =>
                    setRoles(on ? [...roles, role.code] : roles.filter((each) => each !== role.code))
                  }
                />
              ))}
            </div>
          </fieldset>
          <fieldset>
            <legend className="mb-1 text-note font-medium text-second">
              Tools, {ownTools ? 'set for this person' : 'as the roles bring them'}
            </legend>
            <div className="flex flex-wrap gap-4">
              {people.tools.map((tool) => (
                <Checkbox
                  key={tool.code}
                  label={tool.on ? tool.words : `${tool.words} (off in the project)`}
                  disabled={!may || keepsAll || !tool.on}
                  checked={tool.on && (keepsAll || tools.includes(tool.code))}
                  onChange={(on) =>
                    setOwnTools(
                      on ? [...new Set([...tools, tool.code])] : tools.filter((each) => each !== tool.code),
                    )
                  }
                />
              ))}
              {ownTools && (
                <Button small why={!may && 'Leads change this.'} onClick={() => setOwnTools(null)}>
                  As the roles bring them
                </Button>
              )}
            </div>
          </fieldset>
          <p className="text-list text-second">
            Access: up to <strong className="text-ink">{member.level}</strong>. Folders and access has it by
            folder.
          </p>
        </>
      )}
      {lastTool ? (
        <div
          role="alert"
          className="flex flex-col gap-2 border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-ochre"
        >
          {change.error?.message}
          <span className="flex gap-2">
            <Button small onClick={() => save(true)}>
              Save all the same
            </Button>
            <Button small onClick={change.reset}>
              Leave it
            </Button>
          </span>
        </div>
      ) : (
        <ErrorNote error={change.error ?? invite.error} />
      )}
      {may && (
        <div className="flex gap-2">
          <Button look="act" busy={change.isPending} onClick={() => save(false)}>
            Save
          </Button>
          <Button look="stop" onClick={() => setRemoving(true)}>
            Remove from the project
          </Button>
        </div>
      )}
      {removing && <Remove member={member} people={people} onClose={onClose} />}
    </div>
  )
}

/** What is with the person, and who takes it. */
function Remove({ member, people, onClose }: Props) {
  const { project } = useSeat()
  const { remove } = useMemberActs(member.who.id)
  const [heir, setHeir] = useState('')
  const work = useQuery({
    queryKey: ['open-work', project.id, member.who.id],
    queryFn: () =>
      unwrap(
        api.GET('/api/projects/{project_id}/people/{person_id}/open-work', {
          params: { path: { project_id: project.id, person_id: member.who.id } },
        }),
      ),
  })
  const open = work.data
    ? work.data.steps.length + work.data.routes.length + work.data.things.length > 0
    : false
  const others = people.members.filter(
    (each) => each.who.id !== member.who.id && (each.state === 'active' || each.state === 'invited'),
  )
  return (
    <section aria-label="Removing" className="flex flex-col gap-2 border border-brick px-3 py-2">
      <p>
        {member.who.name} will see nothing of the project any more. What they did keeps their name, and they
        can be added again.
      </p>
      <ErrorNote error={work.error} />
      {open && work.data && (
        <>
          <OpenWork work={work.data} />
          <Select
            label="Who takes this?"
            value={heir}
            onChange={setHeir}
            choices={[
              { code: '', words: 'Choose a person' },
              ...others.map((each) => ({
                code: each.who.id,
                words: `${each.who.name}, ${each.who.company}`,
              })),
            ]}
          />
        </>
      )}
      <ErrorNote error={remove.error} />
      <Button
        look="stop"
        className="self-start"
        busy={!work.data || remove.isPending}
        why={open && !heir && 'Say who takes over what is with them first.'}
        onClick={() => remove.mutate({ version: member.version, heir_id: heir }, { onSuccess: onClose })}
      >
        Remove {member.who.name}
      </Button>
    </section>
  )
}

/** All that names the person and still runs. */
function OpenWork({ work }: { work: Schemas['OpenWorkList'] }) {
  return (
    <ul className="text-list">
      {work.steps.map((step) => (
        <li key={`${step.review_id}/${step.step}`}>
          <span className="code">{step.number}</span> {step.name}, step {step.step}
          {step.state === 'running'
            ? step.alone
              ? ': with them alone'
              : ': with them and others'
            : ': to come'}
        </li>
      ))}
      {work.routes.map((name) => (
        <li key={name}>The route {name}</li>
      ))}
      {work.things.map((thing) => (
        <li key={thing.key}>
          <span className="code">{thing.number}</span> {thing.name}: {thing.part}
        </li>
      ))}
    </ul>
  )
}
