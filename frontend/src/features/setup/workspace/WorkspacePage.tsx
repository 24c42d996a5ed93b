import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { counted } from '../../../domain/counted'
import { api, unwrap } from '../../../api/client'
import { Button } from '../../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { Tabs } from '../../../ui/Tabs'
import { BeginProject } from './BeginProject'
import { Companies } from './Companies'
import { Directory } from './Directory'
import type { Workspace } from './useWorkspace'
import { isLost } from '../../../api/fetched'

/** For stewards: the projects, companies and people of the whole workspace. */
export function WorkspacePage() {
  const workspace = useQuery({ queryKey: ['workspace'], queryFn: () => unwrap(api.GET('/api/workspace')) })
  if (isLost(workspace)) return <ErrorNote error={workspace.error} again={() => void workspace.refetch()} />
  if (!workspace.data) return <Loading what="the workspace" />
  const { projects, companies, people } = workspace.data
  return (
    <div className="flex h-full flex-col pt-3">
      <h1 className="px-4 pb-1 text-head font-semibold">The workspace</h1>
      <Tabs
        label="The workspace"
        tabs={[
          {
            key: 'projects',
            words: 'Projects',
            count: projects.length,
            content: <Projects workspace={workspace.data} />,
          },
          {
            key: 'companies',
            words: 'Companies',
            count: companies.length,
            content: <Companies workspace={workspace.data} />,
          },
          {
            key: 'people',
            words: 'People',
            count: people.length,
            content: <Directory workspace={workspace.data} />,
          },
        ]}
      />
    </div>
  )
}

function Projects({ workspace }: { workspace: Workspace }) {
  const [beginning, setBeginning] = useState(false)
  return (
    <div className="max-w-[980px]">
      <Button look="act" className="mb-3" onClick={() => setBeginning(true)}>
        Begin a project
      </Button>
      {workspace.projects.length === 0 && <Empty>No projects yet. Begin the first from a starter.</Empty>}
      <ul className="border-t border-line">
        {workspace.projects.map((project) => (
          <li
            key={project.id}
            className="grid grid-cols-[110px_minmax(0,1fr)_110px_minmax(0,1fr)] items-baseline gap-3 border-b border-line py-2"
          >
            <span className="code font-bold">{project.number}</span>
            <span className="font-medium">{project.name}</span>
            <span className="text-second">{counted(project.people, 'person', 'people')}</span>
            <span className="text-second">led by {project.leads.join(', ') || 'nobody'}</span>
          </li>
        ))}
      </ul>
      {beginning && <BeginProject workspace={workspace} onClose={() => setBeginning(false)} />}
    </div>
  )
}
