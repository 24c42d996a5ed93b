import { readCsrfToken, type Schemas } from './client'
import { Refused, type Problem } from './problems'

/** Sends one file as it is, telling how far it has come; `signal` stops it. */
export function uploadFile(
  batchId: string,
  file: File,
  folder: string,
  onProgress: (sentBytes: number) => void,
  signal: AbortSignal,
): Promise<Schemas['Arrival']> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open(
      'PUT',
      `/api/intake/batches/${batchId}/files?${new URLSearchParams({ name: file.name, folder }).toString()}`,
    )
    request.setRequestHeader('X-Nod-Csrf', readCsrfToken())
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.upload.onprogress = (event) => onProgress(event.loaded)
    request.onload = () => {
      if (request.status < 300) resolve(JSON.parse(request.responseText) as Schemas['Arrival'])
      else reject(new Refused(parse(request)))
    }
    request.onerror = () => reject(new Refused(problem('offline')))
    request.onabort = () => reject(new DOMException('stopped', 'AbortError'))
    signal.addEventListener('abort', () => request.abort())
    request.send(file)
  })
}

function problem(code: string): Problem {
  return { code, detail: '', status: 0, title: '', type: '', about: '' }
}

function parse(request: XMLHttpRequest): Problem {
  try {
    return JSON.parse(request.responseText) as Problem
  } catch {
    return problem('fault')
  }
}
