import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'

import type { Me, Project } from '../../api/me'

interface Props {
  me: Me
  project: Project
  onProject: (id: string) => void
}

/** The project's name; with several projects it switches between them. */
export function ProjectName({ me, project, onProject }: Props) {
  const name = (
    <>
      <span className="code font-bold">{project.number}</span>
      <span className="hidden max-w-[150px] truncate text-second 2xl:inline">{project.name}</span>
    </>
  )
  if (me.projects.length < 2)
    return (
      <span className="flex items-center gap-2" title={project.name}>
        {name}
      </span>
    )
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex items-center gap-2 hover:text-plum"
        aria-label={`Project ${project.number} ${project.name}, switch`}
      >
        {name}
        <ChevronDown size={14} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={8}
          className="z-50 max-h-[70vh] min-w-[260px] overflow-auto border border-second bg-surface py-1"
        >
          {me.projects.map((each) => (
            <DropdownMenu.Item
              key={each.id}
              onSelect={() => onProject(each.id)}
              className="flex cursor-pointer gap-3 px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint"
            >
              <span className="code w-[64px] font-bold">{each.number}</span> {each.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
