import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useRef, useState } from 'react'

import { wordsOf } from '../../api/problems'
import { uploadFile } from '../../api/upload'
import type { Found } from './droppedFiles'

export interface Upload {
  key: string
  file: File
  folder: string
  sentBytes: number
  state: 'waiting' | 'sending' | 'done' | 'stopped' | 'failed'
  words: string
}

const AT_ONCE = 3

/** Sends files three at a time, each with its own progress; can be stopped, and failed ones sent again. */
export function useUploads() {
  const client = useQueryClient()
  const [uploads, setUploads] = useState<Upload[]>([])
  const stop = useRef(new AbortController())

  const change = useCallback((key: string, part: Partial<Upload>) => {
    setUploads((all) => all.map((each) => (each.key === key ? { ...each, ...part } : each)))
  }, [])

  const send = useCallback(
    async (batchId: string, upload: Upload) => {
      change(upload.key, { state: 'sending', words: '' })
      try {
        const progress = (sentBytes: number) => change(upload.key, { sentBytes })
        await uploadFile(batchId, upload.file, upload.folder, progress, stop.current.signal)
        change(upload.key, { state: 'done', sentBytes: upload.file.size })
      } catch (error) {
        const stopped = error instanceof DOMException
        change(upload.key, {
          state: stopped ? 'stopped' : 'failed',
          words: stopped ? 'stopped' : wordsOf(error),
        })
      }
      await client.invalidateQueries({ queryKey: ['batch', batchId] })
    },
    [change, client],
  )

  const start = useCallback(
    async (batchId: string, files: Found[]) => {
      if (stop.current.signal.aborted) stop.current = new AbortController()
      const fresh = files.map(({ file, folder }, place): Upload => {
        const key = `${batchId}/${Date.now()}/${place}`
        return { key, file, folder, sentBytes: 0, state: 'waiting', words: '' }
      })
      setUploads((all) => [...all.filter((each) => each.state !== 'done'), ...fresh])
      const queue = [...fresh]
      const lane = async () => {
        for (let next = queue.shift(); next; next = queue.shift()) await send(batchId, next)
      }
      await Promise.all(Array.from({ length: AT_ONCE }, lane))
    },
    [send],
  )

  const stopAll = useCallback(() => stop.current.abort(), [])
  const clear = useCallback(() => setUploads([]), [])
  return { uploads, start, send, stopAll, clear }
}
