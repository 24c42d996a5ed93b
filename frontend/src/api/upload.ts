import { Upload, type DetailedError } from 'tus-js-client'

import { readCsrfToken } from './client'
import { brokenLine, refusedBy, type Problem } from './problems'

const PIECE_BYTES = 8 * 1024 * 1024
const RETRY_MS = [0, 1000, 3000, 5000, 10_000, 20_000]

/**
 * Sends one file in pieces, telling how far it has come; a broken line is taken up again by itself, and a file that was
 * broken off altogether goes on from where it was when it is sent to the same batch again. `signal` stops it.
 */
export function uploadFile(
  batchId: string,
  file: File,
  folder: string,
  onProgress: (sentBytes: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: '/api/intake/uploads',
      metadata: { batch: batchId, filename: file.name, folder },
      headers: { 'X-Nod-Csrf': readCsrfToken() },
      chunkSize: PIECE_BYTES,
      retryDelays: RETRY_MS,
      removeFingerprintOnSuccess: true,
      fingerprint: () =>
        Promise.resolve(['nod', batchId, folder, file.name, file.size, file.lastModified].join('/')),
      onProgress,
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0
        return status === 0 || status === 409 || status >= 500
      },
      onSuccess: () => resolve(),
      onError: (error) => reject(refusedBy(problemOf(error as DetailedError))),
    })
    signal.addEventListener('abort', () => {
      void upload.abort(true)
      reject(new DOMException('stopped', 'AbortError'))
    })
    void upload
      .findPreviousUploads()
      .then((before) => {
        if (before[0]) upload.resumeFromPreviousUpload(before[0])
      })
      .finally(() => {
        if (!signal.aborted) upload.start()
      })
  })
}

function problemOf(error: DetailedError): Problem {
  const answer = error.originalResponse
  if (!answer) return brokenLine()
  try {
    return JSON.parse(answer.getBody()) as Problem
  } catch {
    return brokenLine('fault')
  }
}
