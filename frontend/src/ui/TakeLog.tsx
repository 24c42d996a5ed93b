import { download } from '../api/download'
import { useSeat } from '../api/me'
import { Button } from './Button'

interface Props {
  /** Where the file is asked for. */
  address: string
  search: object
}

/** A log as a file, narrowed as it is shown. */
export function TakeLog({ address, search }: Props) {
  const { project } = useSeat()
  const narrowed = Object.entries(search).filter(([, value]) => value !== undefined && value !== false)
  const fields = {
    project_id: project.id,
    ...Object.fromEntries(narrowed.map(([key, value]) => [key, String(value)])),
  }
  return (
    <span className="flex gap-1">
      {(['xlsx', 'csv'] as const).map((form) => (
        <Button
          key={form}
          small
          aria-label={`Take the list as ${form.toUpperCase()}`}
          onClick={() => download(address, { ...fields, form })}
        >
          {form.toUpperCase()}
        </Button>
      ))}
    </span>
  )
}
