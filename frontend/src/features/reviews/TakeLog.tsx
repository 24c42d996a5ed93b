import { download } from '../../api/download'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import type { LogSearch } from './logSearch'

/** The log as a file, narrowed as it is shown. */
export function TakeLog({ search }: { search: LogSearch }) {
  const { project } = useSeat()
  const { late, ...narrowed } = search
  const fields = {
    project_id: project.id,
    ...Object.fromEntries(Object.entries(narrowed).filter(([, value]) => value !== undefined)),
    ...(late ? { late: 'true' } : {}),
  }
  return (
    <span className="flex gap-1">
      {(['xlsx', 'csv'] as const).map((form) => (
        <Button
          key={form}
          small
          aria-label={`Take the list as ${form.toUpperCase()}`}
          onClick={() => download('/api/reviews/taken', { ...fields, form })}
        >
          {form.toUpperCase()}
        </Button>
      ))}
    </span>
  )
}
