import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Files } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useRef, useState } from 'react'

import { type Schemas } from '../../../api/client'
import { download } from '../../../api/download'
import { putFile } from '../../../api/putFile'
import { Button } from '../../../ui/Button'
import { ErrorNote } from '../../../ui/Notes'
import { MarkFiles } from './MarkFiles'
import { PrintDialog } from '../PrintDialog'

type TakenIn = Schemas['TakenIn']

interface Props {
  revisionId: string
  /** How many marks are in ink, and how many of them not everybody reads. */
  ink: number
  some: number
  mayMark: boolean
}

const ITEM =
  'cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint data-[disabled]:opacity-40'
const FORMS = [
  ['pdf', 'The sheet with its marks (PDF)'],
  ['summary', 'A summary with a clip of each place (PDF)'],
  ['xfdf', 'The marks alone (XFDF)'],
  ['xlsx', 'The marks as a spreadsheet (XLSX)'],
  ['csv', 'The marks as CSV'],
] as const

async function takeIn(revisionId: string, file: File): Promise<TakenIn> {
  const query = new URLSearchParams({ name: file.name })
  return await putFile<TakenIn>(`/api/sheets/${revisionId}/marks/file?${query}`, file)
}

/** Marks as files: what is in ink goes out, marks of other programs come in, and the sheet is printed. */
export function MarksAway({ revisionId, ink, some, mayMark }: Props) {
  const [withSome, setWithSome] = useState(false)
  const client = useQueryClient()
  const file = useRef<HTMLInputElement>(null)
  const [printing, setPrinting] = useState(false)
  const [files, setFiles] = useState(false)
  const taking = useMutation({
    mutationFn: (chosen: File) => takeIn(revisionId, chosen),
    onSettled: () =>
      Promise.all(
        (['marks', 'mark-files'] as const).map((key) =>
          client.invalidateQueries({ queryKey: [key, revisionId] }),
        ),
      ),
  })
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button
            type="button"
            aria-label="Marks and files"
            title="Take marks away, take marks in, print"
            className="inline-flex size-6 items-center justify-center text-second hover:text-ink"
          >
            <Files size={15} aria-hidden />
          </button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-30 w-[300px] border border-second bg-surface py-1"
          >
            {some > 0 && (
              <DropdownMenu.CheckboxItem
                className={`${ITEM} border-b border-line`}
                checked={withSome}
                onCheckedChange={setWithSome}
                onSelect={(event) => event.preventDefault()}
              >
                {withSome ? '☑' : '☐'} with {some} that not everybody reads
              </DropdownMenu.CheckboxItem>
            )}
            {FORMS.map(([form, words]) => (
              <DropdownMenu.Item
                key={form}
                className={ITEM}
                disabled={!(withSome ? ink : ink - some)}
                onSelect={() =>
                  download(`/api/sheets/${revisionId}/marks/export`, {
                    form,
                    with_some: String(withSome && some > 0),
                  })
                }
              >
                {words}
              </DropdownMenu.Item>
            ))}
            {mayMark && (
              <DropdownMenu.Item
                className={`${ITEM} border-t border-line`}
                onSelect={() => file.current?.click()}
              >
                Take marks in from a PDF or XFDF …
              </DropdownMenu.Item>
            )}
            <DropdownMenu.Item className={ITEM} onSelect={() => setFiles(true)}>
              Files that marks came from …
            </DropdownMenu.Item>
            <DropdownMenu.Item className={`${ITEM} border-t border-line`} onSelect={() => setPrinting(true)}>
              Print this sheet …
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <input
        ref={file}
        type="file"
        accept=".pdf,.xfdf,application/pdf"
        className="sr-only"
        tabIndex={-1}
        aria-label="File with marks"
        onChange={(event) => {
          const chosen = event.target.files?.[0]
          event.target.value = ''
          if (chosen) taking.mutate(chosen)
        }}
      />
      <MarkFiles revisionId={revisionId} open={files} onClose={() => setFiles(false)} />
      <PrintDialog
        revisionId={revisionId}
        ink={ink - some}
        open={printing}
        onClose={() => setPrinting(false)}
      />
      {(taking.isPending || taking.error || taking.data) && (
        <div className="w-full border-t border-line pt-1.5 text-list">
          <ErrorNote error={taking.error} />
          {taking.isPending && <p role="status">Reading the marks of the file …</p>}
          {taking.data && <Came taken={taking.data} />}
          {!taking.isPending && (
            <Button small onClick={taking.reset}>
              Close
            </Button>
          )}
        </div>
      )}
    </>
  )
}

/** What came of a file, as counts and words. */
function Came({ taken }: { taken: TakenIn }) {
  const counts = [
    [taken.added, 'new'],
    [taken.renewed, 'renewed'],
    [taken.same, 'there already'],
    [taken.answers, taken.answers === 1 ? 'reply' : 'replies'],
    [taken.states, taken.states === 1 ? 'state' : 'states'],
    [taken.links, taken.links === 1 ? 'link' : 'links'],
  ] as const
  const said = counts.filter(([count]) => count > 0).map(([count, words]) => `${count} ${words}`)
  return (
    <div role="status" className="mb-1.5">
      <p>{said.length ? `Taken in: ${said.join(', ')}.` : 'There are no marks in this file.'}</p>
      {taken.told.map(({ count, words }) => (
        <p key={words} className="text-ochre">
          △ {count} {words}.
        </p>
      ))}
    </div>
  )
}
