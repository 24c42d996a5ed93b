import { Link, useSearch } from '@tanstack/react-router'
import { X } from 'lucide-react'
import { useState } from 'react'

import type { Schemas } from '../../../api/client'
import { AttachedFile, Look } from '../../../ui/Attachments'
import { buttonLook } from '../../../ui/Button'
import { Input } from '../../../ui/Input'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { PathLink } from '../../../ui/PathLink'
import { When } from '../../../ui/Standing'
import { RegisterNav } from '../RegisterNav'
import { useAttached } from './useAttached'

type Line = Schemas['AttachmentListed']

/** All files that came with what was said, wherever that was. */
export function AttachedPage() {
  const { folders = '' } = useSearch({ from: '/frame/register/attached' })
  const [words, setWords] = useState('')
  const [open, setOpen] = useState<Line | null>(null)
  const asked = words.trim()
  const found = useAttached(asked, folders)
  const lines = found.data?.attachments ?? []
  return (
    <section aria-label="Attached files" className="flex h-full flex-col">
      <RegisterNav>
        <span role="status" className="text-second">
          {lines.length} {lines.length === 1 ? 'file' : 'files'}
        </span>
        {folders && (
          <Link to="/register/attached" search={{}} className={buttonLook('quiet')}>
            Only some folders <X size={14} aria-label="Show those of all folders" />
          </Link>
        )}
        <Input
          keep="passing"
          type="search"
          aria-label="Find by name"
          placeholder="Name of a file"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className="w-[200px]"
        />
      </RegisterNav>
      <ErrorNote error={found.error} again={() => void found.refetch()} />
      {found.isPending && <Loading what="the files" />}
      {found.data && !lines.length && <NoFiles narrowed={asked !== '' || folders !== ''} />}
      {lines.length > 0 && <Files lines={lines} more={!!found.data?.more} onOpen={setOpen} />}
      {open && <Look attachment={open} onClose={() => setOpen(null)} />}
    </section>
  )
}

function NoFiles({ narrowed }: { narrowed: boolean }) {
  return (
    <Empty>
      {narrowed
        ? 'No file is called so, or none is filed there.'
        : 'Nobody has attached a file yet. In the talk of a document, a review or a transmittal, and in replies to marks, the paper clip adds one.'}
    </Empty>
  )
}

interface FilesProps {
  lines: readonly Line[]
  more: boolean
  onOpen: (line: Line) => void
}

function Files({ lines, more, onOpen }: FilesProps) {
  return (
    <div className="min-h-0 flex-1 overflow-auto border-t border-line">
      <table className="w-full table-fixed text-list max-lg:block">
        <thead className="sticky top-0 bg-surface text-left text-note text-second max-lg:hidden">
          <tr className="h-8 border-b border-second/40">
            <th className="px-4 font-semibold">File</th>
            <th className="w-[280px] px-2 font-semibold">Attached to</th>
            <th className="w-[150px] px-2 font-semibold">Filed in</th>
            <th className="w-[150px] px-2 font-semibold">By</th>
            <th className="w-[110px] px-2 font-semibold">Since</th>
          </tr>
        </thead>
        <tbody className="max-lg:block">
          {lines.map((line) => (
            <tr key={line.id} className="border-b border-line/70 max-lg:block max-lg:py-1.5">
              <td className="px-4 py-1 max-lg:block">
                <span className="flex items-start gap-2">
                  <AttachedFile attachment={line} onOpen={() => onOpen(line)} />
                </span>
              </td>
              <td className="truncate px-2 max-lg:block max-lg:px-4" title={line.on_words}>
                <PathLink path={line.on_address} className="text-plum underline">
                  {line.on_words}
                </PathLink>
              </td>
              <td className="truncate px-2 max-lg:inline max-lg:pl-4">{line.folder}</td>
              <td className="truncate px-2 max-lg:inline">{line.added_by?.name}</td>
              <td className="px-2 max-lg:inline">
                <When at={line.added_at} time />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {more && (
        <p className="px-4 py-2 text-second">There are more. Words of a name bring those that have them.</p>
      )}
    </div>
  )
}
