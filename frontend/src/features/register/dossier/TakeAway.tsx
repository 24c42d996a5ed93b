import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { download } from '../../../api/download'
import { hasLevel, useSeat } from '../../../api/me'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { ErrorNote } from '../../../ui/Notes'
import { Packs } from '../Packs'
import { AddToSet } from '../sets/AddToSet'
import { FolderZip } from '../FolderZip'
import { ShareList } from '../ShareList'
import { asked, type RegisterSearch } from '../registerSearch'
import { useHere } from '../../../ui/useHere'

interface Props {
  search: RegisterSearch
  columns: readonly string[]
  total: number
  /** A list is being made, by its id. */
  onMade: (id: string) => void
}

type Form = 'xlsx' | 'csv'

/** As the server has it, which refuses more at once. */
const MOST_AT_ONCE = 5000

const ITEM = 'cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint'

/** The list as it is shown as a file, a folder as a ZIP, and all of it into a drawing set. */
export function TakeAway({ search, columns, total, onMade }: Props) {
  const client = useQueryClient()
  const { project } = useSeat()
  const [dialog, setDialog] = useState<Asked>(null)
  const { words, filters, sorts, group } = asked(search)
  const view = { project_id: project.id, words, filters, sorts, group }
  const here = useHere()
  const ask = useMutation({
    mutationFn: (form: Form) =>
      unwrap(api.POST('/api/packs/lists', { body: { ...view, columns: [...columns], form } })),
    onSuccess: async (pack) => {
      await client.invalidateQueries({ queryKey: ['packs'] })
      here(() => onMade(pack.id))
    },
  })
  const take = (form: Form) => {
    // A long list takes seconds: it is made while one goes on.
    if (total > MOST_AT_ONCE) ask.mutate(form)
    else download('/api/register/export', { ...view, columns: columns.join(','), form })
  }
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
            <DropdownMenu.Item className={ITEM} onSelect={() => setDialog('made')}>
              ZIPs and lists made for me …
            </DropdownMenu.Item>
            {hasLevel(project, 'file') && <GiveOn onAsk={setDialog} />}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <ErrorNote error={ask.error} />
      <Dialogs dialog={dialog} search={search} total={total} onClose={() => setDialog(null)} />
    </>
  )
}

/** What is done with a list by those who send things out. */
function GiveOn({ onAsk }: { onAsk: (asked: Asked) => void }) {
  return (
    <>
      <DropdownMenu.Item className={ITEM} onSelect={() => onAsk('set')}>
        Add this list to a drawing set …
      </DropdownMenu.Item>
      <DropdownMenu.Item className={ITEM} onSelect={() => onAsk('link')}>
        Give a link to a folder or a view …
      </DropdownMenu.Item>
    </>
  )
}

type Asked = 'zip' | 'set' | 'made' | 'link' | null

interface DialogsProps {
  dialog: Asked
  search: RegisterSearch
  total: number
  onClose: () => void
}

function Dialogs({ dialog, search, total, onClose }: DialogsProps) {
  const { words, filters } = asked(search)
  if (dialog === 'zip') return <FolderZip search={search} onClose={onClose} />
  if (dialog === 'set') return <AddToSet view={{ words, filters, total }} onClose={onClose} />
  if (dialog === 'link') return <ShareList search={search} onClose={onClose} />
  if (dialog !== 'made') return null
  return (
    <Dialog title="Made for you" about="ZIPs and long lists, yours alone." open wide onClose={onClose}>
      <Packs heading="Made for you" />
    </Dialog>
  )
}
