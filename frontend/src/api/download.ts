import { readCsrfToken } from './client'

/** Fetches a file by a POST, because a download is recorded; the browser streams it to the disk. */
export function download(address: string, fields: Record<string, string> = {}): void {
  const form = document.createElement('form')
  form.method = 'post'
  form.action = address
  for (const [name, value] of Object.entries({ ...fields, csrf: readCsrfToken() })) {
    const field = document.createElement('input')
    field.type = 'hidden'
    field.name = name
    field.value = value
    form.append(field)
  }
  document.body.append(form)
  form.submit()
  form.remove()
}
