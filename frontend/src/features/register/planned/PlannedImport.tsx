import { useQueryClient } from '@tanstack/react-query'

import type { Schemas } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { counted } from '../../../domain/counted'
import { ListIn, type ListField } from '../../../ui/ListIn'

type Read = Schemas['ListRead']

const FIELDS: ListField[] = [
  { field: 'number', words: 'Number' },
  { field: 'planned_on', words: 'Planned day' },
  { field: 'title', words: 'Title' },
  { field: 'company', words: 'Company', none: 'in the number' },
  { field: 'discipline', words: 'Discipline', none: 'in the number' },
]

/** What is planned, out of a spreadsheet. */
export function PlannedImport({ onClose }: { onClose: () => void }) {
  const { project } = useSeat()
  const client = useQueryClient()
  return (
    <ListIn<Read>
      title="Take in a list of planned documents"
      about="A spreadsheet (XLSX) or CSV; a row above names the columns. Nothing is kept before you say so."
      address={`/api/planned?project_id=${project.id}`}
      fields={FIELDS}
      said={(found) => (
        <>
          <b>{found.new}</b> new, <b>{found.changed}</b> changed, {found.same} as they are,
        </>
      )}
      keep={(found) => `Keep ${counted(found.new + found.changed, 'planned document')}`}
      why={(found) => found.new + found.changed === 0 && 'Nothing in it is new or changed.'}
      onKept={() => {
        void client.invalidateQueries({ queryKey: ['planned'] })
        onClose()
      }}
      onClose={onClose}
    />
  )
}
