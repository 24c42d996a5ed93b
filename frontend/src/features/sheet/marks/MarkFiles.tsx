import { useQuery } from '@tanstack/react-query'

import { api, unwrapAs, type Schemas } from '../../../api/client'
import { download } from '../../../api/download'
import { bytesText } from '../../../domain/bytes'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { When } from '../../../ui/Standing'

interface Props {
  revisionId: string
  open: boolean
  onClose: () => void
}

/** The files that marks were taken in from, as they came: what is no mark here is still in them. */
export function MarkFiles({ revisionId, open, onClose }: Props) {
  const files = useQuery({
    queryKey: ['mark-files', revisionId],
    enabled: open,
    queryFn: () =>
      unwrapAs<Schemas['MarkFiles']>(
        api.GET('/api/sheets/{revision_id}/mark-files', { params: { path: { revision_id: revisionId } } }),
      ),
  })
  return (
    <Dialog
      title="Files that marks came from"
      about="Kept as they came, with what could not become a mark."
      open={open}
      onClose={onClose}
    >
      <ErrorNote error={files.error} again={() => void files.refetch()} />
      {files.isPending && <Loading what="the files" />}
      {files.data?.files.length === 0 && (
        <p className="text-second">No marks were taken in from a file yet.</p>
      )}
      <ul className="flex flex-col">
        {files.data?.files.map((file) => (
          <li key={file.id} className="flex items-start gap-3 border-t border-line/60 py-2 first:border-0">
            <div className="min-w-0 flex-1">
              <p className="truncate font-medium" title={file.name}>
                {file.name}
              </p>
              <p className="text-note text-second">
                {bytesText(file.size_bytes)} · {file.taken_by.name} {file.taken_by.company} ·{' '}
                <When at={file.taken_at} />
              </p>
              {file.told.map((words) => (
                <p key={words} className="text-note text-ochre">
                  △ {words}.
                </p>
              ))}
            </div>
            <Button
              small
              onClick={() => download(`/api/sheets/${revisionId}/mark-files/${file.id}/download`)}
            >
              Download
            </Button>
          </li>
        ))}
      </ul>
    </Dialog>
  )
}
