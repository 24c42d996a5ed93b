import { Download } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'

import { download } from '../../api/download'

interface Props {
  revisionId: string
  /** How many marks are in ink. */
  ink: number
}

const ITEM = 'cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint'
const FORMS = [
  ['pdf', 'The sheet with its marks (PDF)'],
  ['xlsx', 'The marks as a spreadsheet (XLSX)'],
  ['csv', 'The marks as CSV'],
] as const

/** What is in ink on this revision, as a file that other programs read. Pencil stays here. */
export function MarksAway({ revisionId, ink }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          aria-label="Take the marks away"
          title={ink ? 'Take the marks away' : 'Nothing is in ink yet'}
          disabled={!ink}
          className="inline-flex size-6 items-center justify-center text-second hover:text-ink disabled:opacity-30"
        >
          <Download size={15} aria-hidden />
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 w-[280px] border border-second bg-surface py-1"
        >
          {FORMS.map(([form, words]) => (
            <DropdownMenu.Item
              key={form}
              className={ITEM}
              onSelect={() => download(`/api/sheets/${revisionId}/marks/export`, { form })}
            >
              {words}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
