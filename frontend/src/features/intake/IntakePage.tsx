import { useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { FileDown } from 'lucide-react'
import { useRef, useState, type DragEvent } from 'react'

import { counted } from '../../domain/counted'
import { bytesText } from '../../domain/bytes'
import { Button } from '../../ui/Button'
import { Select } from '../../ui/Field'
import { Empty, ErrorNote, Loading, ProgressBar } from '../../ui/Notes'
import { When } from '../../ui/Standing'
import { BatchTable } from './BatchTable'
import { filesOf, isOfASystem, withFolder, type Found } from './droppedFiles'
import { HeldTray } from './HeldTray'
import { useFolders } from '../../api/folders'
import { useBatches, useOpenBatch } from './useIntake'
import { useUploads, type Upload } from './useUploads'

/** Files are dropped anywhere on the station; the batches are on the left, the files of one on the right. */
export function IntakePage() {
  const { batchId } = useParams({ strict: false })
  const batches = useBatches()
  const open = useOpenBatch()
  const { choices, folder, setFolder } = useTarget()
  const navigate = useNavigate()
  const client = useQueryClient()
  const { uploads, start, again, stopAll, clear } = useUploads()
  const [over, setOver] = useState(false)
  const [leftOut, setLeftOut] = useState(0)
  const chooser = useRef<HTMLInputElement>(null)
  const folderChooser = useRef<HTMLInputElement>(null)
  const into = useRef('')

  async function take(all: Found[]) {
    const present = into.current
    into.current = ''
    const files = all.filter((each) => !isOfASystem(each))
    setLeftOut(all.length - files.length)
    if (!files.length) return
    const batchId = present || (await open.mutateAsync(folder)).id
    await navigate({ to: '/intake/$batchId', params: { batchId } })
    await start(batchId, files)
    await client.invalidateQueries({ queryKey: ['batches'] })
  }

  function drop(event: DragEvent) {
    event.preventDefault()
    setOver(false)
    void filesOf(event.dataTransfer).then(take)
  }

  const { file = '', held } = useSearch({ strict: false })
  const shown = held ? undefined : (batchId ?? batches.data?.find((batch) => batch.open > 0)?.id)
  const heldCount = batches.data?.reduce((sum, batch) => sum + batch.held, 0) ?? 0
  const openFile = (id: string) => {
    if (shown)
      void navigate({ to: '/intake/$batchId', params: { batchId: shown }, search: { file: id || undefined } })
  }
  return (
    <div
      role="presentation"
      className={`flex h-full max-md:flex-col ${over ? 'outline-3 -outline-offset-4 outline-plum outline-dashed' : ''}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <nav
        aria-label="Batches"
        className={`w-[208px] shrink-0 flex-col border-r border-line max-md:max-h-[38%] max-md:w-full max-md:overflow-auto max-md:border-r-0 max-md:border-b ${file && shown ? 'hidden min-[1700px]:flex' : 'flex'}`}
      >
        <div className="border-b border-line p-3">
          <Button
            look="act"
            className="w-full justify-center"
            onClick={() => {
              into.current = ''
              chooser.current?.click()
            }}
          >
            <FileDown size={15} aria-hidden /> Take in files
          </Button>
          <Button className="mt-1.5 w-full justify-center" onClick={() => folderChooser.current?.click()}>
            Take in a folder
          </Button>
          <p className="mt-1.5 text-note text-second">or drop files, folders, a ZIP anywhere here</p>
          <Select
            label="New documents go into"
            className="mt-2"
            value={folder}
            onChange={setFolder}
            choices={choices}
          />
          <input
            ref={chooser}
            type="file"
            multiple
            aria-label="Files to take in"
            className="sr-only"
            tabIndex={-1}
            onChange={(event) => {
              void take([...(event.target.files ?? [])].map((file) => ({ file, folder: '' })))
              event.target.value = ''
            }}
          />
          <input
            ref={folderChooser}
            type="file"
            {...{ webkitdirectory: '' }}
            aria-label="Folder to take in"
            className="sr-only"
            tabIndex={-1}
            onChange={(event) => {
              void take([...(event.target.files ?? [])].map(withFolder))
              event.target.value = ''
            }}
          />
        </div>
        <Link
          to="/intake"
          search={{ held: true }}
          className={`flex justify-between border-b border-line px-3 py-2 text-list font-medium hover:bg-surface ${held ? 'bg-plum-tint' : ''}`}
        >
          Held <span className={`code ${heldCount ? 'text-brick' : 'text-second'}`}>{heldCount}</span>
        </Link>
        <div className="min-h-0 flex-1 overflow-auto">
          {batches.data?.map((batch) => (
            <Link
              key={batch.id}
              to="/intake/$batchId"
              params={{ batchId: batch.id }}
              className={`block border-b border-line/60 px-3 py-2 text-list hover:bg-surface ${batch.id === shown ? 'bg-plum-tint' : ''}`}
            >
              <span className="flex justify-between gap-2 font-medium">
                <span className="truncate">{batch.came_from}</span>
                <When at={batch.arrived_at} />
              </span>
              <span className="text-second">
                {batch.open
                  ? `${batch.open} of ${batch.total} open`
                  : `${batch.registered} of ${batch.total} registered`}
                {batch.held > 0 && <span className="text-brick">, {batch.held} held</span>}
              </span>
            </Link>
          ))}
        </div>
      </nav>
      <section aria-label="Files of the batch" className="flex min-h-0 min-w-0 flex-1 flex-col">
        <ErrorNote error={open.error ?? batches.error} />
        <Uploads uploads={uploads} onStop={stopAll} onClear={clear} onAgain={again} />
        {leftOut > 0 && (
          <p role="status" className="border-b border-line px-4 py-1 text-list text-second">
            {counted(leftOut, 'file')} of the system’s own left out.
          </p>
        )}
        {batches.isPending && <Loading what="the batches" />}
        {held && <HeldTray />}
        {shown ? (
          <BatchTable
            key={shown}
            batchId={shown}
            openId={file}
            onOpen={openFile}
            onAdd={() => {
              into.current = shown
              chooser.current?.click()
            }}
          />
        ) : (
          !held &&
          batches.data && (
            <Empty
              act={
                <Button
                  look="act"
                  onClick={() => {
                    into.current = ''
                    chooser.current?.click()
                  }}
                >
                  Take in files
                </Button>
              }
            >
              Arriving files are checked here before they enter the register. Drop sheets, whole folders or a
              ZIP on this page; numbers, revisions and titles are read from the file names and the title
              blocks.
            </Empty>
          )
        )}
      </section>
    </div>
  )
}

const KEPT = 'nod.intake.folder'

/** The folders one may file into, and the one chosen last. */
function useTarget() {
  const folders = useFolders()
  const [chosen, setChosen] = useState(() => localStorage.getItem(KEPT) ?? '')
  const choices = (folders.data ?? [])
    .filter((each) => each.level === 'file' || each.level === 'keep')
    .map((each) => ({ code: each.id, words: `${'\u2003'.repeat(each.depth)}${each.name}` }))
  const folder = choices.some((each) => each.code === chosen) ? chosen : (choices[0]?.code ?? '')
  return {
    choices,
    folder,
    setFolder: (id: string) => {
      localStorage.setItem(KEPT, id)
      setChosen(id)
    },
  }
}

interface UploadsProps {
  uploads: readonly Upload[]
  onStop: () => void
  onClear: () => void
  onAgain: (upload: Upload) => void
}

/** Progress by count and by file; what failed says why and can be sent again. */
function Uploads({ uploads, onStop, onClear, onAgain }: UploadsProps) {
  if (!uploads.length) return null
  const done = uploads.filter((each) => each.state === 'done').length
  const running = uploads.some((each) => each.state === 'sending' || each.state === 'waiting')
  const rest = uploads.filter((each) => each.state !== 'done')
  return (
    <section aria-label="Uploads" className="border-b border-line bg-surface px-4 py-2">
      <div className="flex items-center gap-3">
        <p role="status" className="font-medium whitespace-nowrap">
          {done} of {uploads.length} taken in
        </p>
        <ProgressBar done={done} of={uploads.length} label="Files taken in" />
        {running ? (
          <Button small onClick={onStop}>
            Stop
          </Button>
        ) : (
          <Button small onClick={onClear}>
            Clear
          </Button>
        )}
      </div>
      <ul className="max-h-40 overflow-auto">
        {rest.map((each) => (
          <li
            key={each.key}
            className="grid grid-cols-[minmax(0,1fr)_150px_minmax(120px,auto)] items-center gap-3 py-0.5 text-list"
          >
            <span className="truncate">{each.file.name}</span>
            <ProgressBar done={each.sentBytes} of={each.file.size} label={`Upload of ${each.file.name}`} />
            <span className={each.state === 'failed' ? 'text-brick' : 'text-second'}>
              {each.words || `${bytesText(each.sentBytes)} of ${bytesText(each.file.size)}`}{' '}
              {(each.state === 'failed' || each.state === 'stopped') && (
                <Button small onClick={() => onAgain(each)}>
                  Send again
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
