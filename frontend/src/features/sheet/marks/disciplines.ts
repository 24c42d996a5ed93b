import type { Project } from '../../../api/me'

/** To choose from, none first. */
export const disciplinesOf = (project: Project) => [
  { code: '', words: 'none' },
  ...Object.entries(project.disciplines).map(([code, words]) => ({ code, words: `${code}, ${words}` })),
]
