import { download } from '../api/download'
import { useSeat } from '../api/me'
import { Button } from './Button'

interface Props {
  /** Where the file is asked for. */
  address: string
  search: object
  /** Its forms, and what they are called. */
  forms?: readonly (readonly [form: string, words: string])[]
}

const TABLES = [
  ['xlsx', 'XLSX'],
  ['csv', 'CSV'],
] as const

/** To be read on a screen or on paper, too. */
export const TABLES_AND_PDF = [...TABLES, ['a4', 'PDF'], ['a3', 'PDF A3']] as const

/** A log as a file, narrowed as it is shown. */
export function TakeLog({ address, search, forms = TABLES }: Props) {
  const { project } = useSeat()
  const narrowed = Object.entries(search).filter(([, value]) => value !== undefined && value !== false)
  const fields = {
    project_id: project.id,
    ...Object.fromEntries(narrowed.map(([key, value]) => [key, String(value)])),
  }
  return (
    <span className="flex gap-1">
      {forms.map(([form, words]) => (
        <Button
          key={form}
          small
          aria-label={`Take the list as ${words}`}
          onClick={() => download(address, { ...fields, form })}
        >
          {words}
        </Button>
      ))}
    </span>
  )
}
