import { Download } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useState } from 'react'

import { download } from '../../../api/download'
import { hasLevel, useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { AddToSet } from '../sets/AddToSet'
import { FolderZip } from '../FolderZip'
import { asked, type RegisterSearch } from '../registerSearch'

interface Props {
  search: RegisterSearch
  columns: readonly string[]
  total: number
}

const ITEM = 'cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint'

/** The list as it is shown as a file, a folder as a ZIP, and all of it into a drawing set. */
export function TakeAway({ search, columns, total }: Props) {
  const { project } = useSeat()
  const [dialog, setDialog] = useState<'zip' | 'set' | null>(null)
  const { words, filters, sorts, group } = asked(search)
  const take = (form: string) =>
    download('/api/register/export', {
      project_id: project.id,
      words,
      filters,
      sorts,
      group,
      columns: columns.join(','),
      form,
    })
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <Button aria-label="Take away" title="Take away">
            <Download size={14} aria-hidden /> <span className="hidden @4xl:inline">Take away</span>
          </Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-30 w-[290px] border border-second bg-surface py-1"
          >
            <DropdownMenu.Item className={ITEM} onSelect={() => take('xlsx')}>
              This list as a spreadsheet (XLSX)
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => take('csv')}>
              This list as CSV
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 border-t border-line" />
            <DropdownMenu.Item className={ITEM} onSelect={() => setDialog('zip')}>
              The files of a folder as a ZIP …
            </DropdownMenu.Item>
            {hasLevel(project, 'file') && (
              <DropdownMenu.Item className={ITEM} onSelect={() => setDialog('set')}>
                Add this list to a drawing set …
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {dialog === 'zip' && <FolderZip search={search} onClose={() => setDialog(null)} />}
      {dialog === 'set' && <AddToSet view={{ words, filters, total }} onClose={() => setDialog(null)} />}
    </>
  )
}
