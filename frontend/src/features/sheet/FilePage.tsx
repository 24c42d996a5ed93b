import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { download } from '../../api/download'
import { useSeat } from '../../api/me'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { FilePart } from '../../ui/FilePart'
import { useKeys } from '../../ui/keys'
import { BareChoice } from '../../ui/Input'
import { StandingLine } from '../../ui/RevisionStanding'
import { ErrorNote, Loading } from '../../ui/Notes'
import { sheetAfter } from '../../ui/sheetList'
import { Along } from './Along'
import { ReviewStrip } from './review/ReviewStrip'

type Sheet = Schemas['Sheet']

/** A revision that has no pages: what is known of its file, and what it says as far as that can be read. */
export function FilePage({ sheet }: { sheet: Sheet }) {
  const navigate = useNavigate()
  const found = useQuery({
    queryKey: ['preview', sheet.revision_id],
    queryFn: () =>
      unwrapAs<Schemas['FilePreview']>(
        api.GET('/api/revisions/{revision_id}/preview', {
          params: { path: { revision_id: sheet.revision_id } },
        }),
      ),
    staleTime: Infinity,
  })
  const open = (revisionId: string) => void navigate({ to: '/sheet/$revisionId', params: { revisionId } })
  const along = (step: number) => {
    const next = sheetAfter(sheet.document_id, step)
    if (next) open(next.revisionId)
  }
  const revision = (step: number) => {
    const place = sheet.revisions.findIndex((each) => each.id === sheet.revision_id)
    const next = sheet.revisions[place + step]
    if (next) open(next.id)
  }
  useKeys({
    ',': ['the sheet before in the list', () => along(-1)],
    '.': ['the next sheet in the list', () => along(1)],
    '[': ['the older revision', () => revision(-1)],
    ']': ['the newer revision', () => revision(1)],
  })

  return (
    <div className="flex h-full flex-col">
      <FileHead sheet={sheet} file={found.data} onAlong={along} onOpen={open} />
      <div
        className="min-h-0 flex-1 overflow-auto px-6 py-5"
        role="region"
        aria-label="What the file says"
        // Long text is read with the arrow keys.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
      >
        <ErrorNote error={found.error} again={() => void found.refetch()} />
        {found.isPending && <Loading what="the file" />}
        {found.data?.trouble && (
          <p className="max-w-[60ch]">
            {found.data.trouble}{' '}
            <span className="text-second">Download it to open it with a program of its own.</span>
          </p>
        )}
        {found.data && !found.data.trouble && !found.data.parts.length && <p>The file is empty.</p>}
        <div className="flex flex-col gap-6">
          {found.data?.parts.map((part, place) => (
            <FilePart key={place} part={part} cells={found.data.what !== 'Document'} />
          ))}
        </div>
      </div>
      <ReviewStrip revisionId={sheet.revision_id} />
    </div>
  )
}

interface HeadProps {
  sheet: Sheet
  file: Schemas['FilePreview'] | undefined
  onAlong: (step: number) => void
  onOpen: (revisionId: string) => void
}

function FileHead({ sheet, file, onAlong, onOpen }: HeadProps) {
  const { project } = useSeat()
  return (
    <header className="flex flex-wrap items-center gap-x-6 gap-y-1 border-b border-line bg-surface px-6 py-2 text-list">
      <div className="min-w-0">
        <Link to="/register" search={{ document: sheet.document_id }} className="code text-plum underline">
          {sheet.number}
        </Link>
        <h1 className="truncate text-read font-semibold">{sheet.title}</h1>
      </div>
      <label>
        <span className="block text-fine text-second">Revision</span>
        <BareChoice
          value={sheet.revision_id}
          className="code -ml-1 font-bold"
          onChange={(event) => onOpen(event.target.value)}
        >
          {sheet.revisions.map((each) => (
            <option key={each.id} value={each.id}>
              {each.code}
            </option>
          ))}
        </BareChoice>
      </label>
      <Fact name="Status">
        <span className="code" title={project.statuses[sheet.status]}>
          {sheet.status}
        </span>
      </Fact>
      {file && (
        <>
          <Fact name={file.what}>{file.file_name}</Fact>
          <Fact name="Size">{bytesText(file.size_bytes)}</Fact>
          <Fact name="SHA-256">
            <span className="code" title={file.sha256}>
              {file.sha256.slice(0, 12)}…
            </span>
          </Fact>
        </>
      )}
      <span className="ml-auto flex items-center gap-2">
        <Along documentId={sheet.document_id} onAlong={onAlong} />
        <Button onClick={() => download(`/api/revisions/${sheet.revision_id}/download`)}>Download</Button>
      </span>
      {sheet.standing.kind !== 'in_force' && <StandingLine standing={sheet.standing} className="w-full" />}
    </header>
  )
}

function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div>
      <span className="block text-fine text-second">{name}</span>
      {children}
    </div>
  )
}
