import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useMemo, useSyncExternalStore } from 'react'

import { wordsOf } from '../../api/problems'
import { uploadFile } from '../../api/upload'
import type { Found } from './droppedFiles'

export interface Upload {
  key: string
  batchId: string
  file: File
  folder: string
  sentBytes: number
  state: 'waiting' | 'sending' | 'done' | 'stopped' | 'failed'
  words: string
}

const AT_ONCE = 3
const READ_AGAIN_MS = 400

/** Uploads go on while one looks at other stations, so they live beside the page and not in it. */
let uploads: readonly Upload[] = []
let stop = new AbortController()
const listeners = new Set<() => void>()

/** The browser asks before a page is shut that still sends: only another page of Nod goes on with it. */
function warn(event: BeforeUnloadEvent) {
  event.preventDefault()
}

const isOpen = (each: Upload) => each.state === 'sending' || each.state === 'waiting'

function set(next: readonly Upload[]) {
  uploads = next
  if (uploads.some(isOpen)) window.addEventListener('beforeunload', warn)
  else window.removeEventListener('beforeunload', warn)
  for (const listener of listeners) listener()
}

function change(key: string, part: Partial<Upload>) {
  set(uploads.map((each) => (each.key === key ? { ...each, ...part } : each)))
}

let reading: ReturnType<typeof setTimeout> | undefined

/** The batch is read again shortly after, once for many files. */
function readAgain(client: QueryClient, batchId: string) {
  clearTimeout(reading)
  reading = setTimeout(() => {
    void client.invalidateQueries({ queryKey: ['batch', batchId] })
    void client.invalidateQueries({ queryKey: ['batches'] })
  }, READ_AGAIN_MS)
}

async function send(client: QueryClient, upload: Upload) {
  if (stop.signal.aborted) {
    change(upload.key, { state: 'stopped', words: 'stopped' })
    return
  }
  change(upload.key, { state: 'sending', words: '' })
  try {
    const progress = (sentBytes: number) => change(upload.key, { sentBytes })
    await uploadFile(upload.batchId, upload.file, upload.folder, progress, stop.signal)
    change(upload.key, { state: 'done', sentBytes: upload.file.size })
  } catch (error) {
    const stopped = error instanceof DOMException
    change(upload.key, { state: stopped ? 'stopped' : 'failed', words: stopped ? 'stopped' : wordsOf(error) })
  }
  readAgain(client, upload.batchId)
}

async function start(client: QueryClient, batchId: string, files: readonly Found[]) {
  if (stop.signal.aborted) stop = new AbortController()
  const fresh = files.map(({ file, folder }, place): Upload => {
    const key = `${batchId}/${Date.now()}/${place}`
    return { key, batchId, file, folder, sentBytes: 0, state: 'waiting', words: '' }
  })
  set([...uploads.filter((each) => each.state !== 'done'), ...fresh])
  const queue = [...fresh]
  const lane = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) await send(client, next)
  }
  await Promise.all(Array.from({ length: AT_ONCE }, lane))
}

function subscribe(listener: () => void) {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** Sends files three at a time, each with its own progress; can be stopped, and what failed sent again. */
export function useUploads() {
  const client = useQueryClient()
  const now = useSyncExternalStore(subscribe, () => uploads)
  return useMemo(
    () => ({
      uploads: now,
      start: (batchId: string, files: readonly Found[]) => start(client, batchId, files),
      again: (upload: Upload) => {
        if (stop.signal.aborted) stop = new AbortController()
        void send(client, upload)
      },
      stopAll: () => stop.abort(),
      clear: () => set([]),
    }),
    [client, now],
  )
}
