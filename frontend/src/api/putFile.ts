import { readCsrfToken } from './client'
import { Refused, type Problem } from './problems'

/** Sends a file as the body of a PUT; what is refused is thrown, as is a broken line. */
export async function putFile<Answer = unknown>(address: string, file: Blob): Promise<Answer> {
  const answer = await fetch(address, {
    method: 'PUT',
    body: file,
    headers: { 'X-Nod-Csrf': readCsrfToken(), 'Content-Type': 'application/octet-stream' },
  }).catch(() => null)
  if (!answer) throw new Refused({ code: 'offline', detail: '', status: 0, title: '', type: '', about: '' })
  if (!answer.ok) throw new Refused((await answer.json()) as Problem)
  return answer.json() as Promise<Answer>
}
