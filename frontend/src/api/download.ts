import { readCsrfToken } from './client'
import { brokenLine, refusedBy, type Problem } from './problems'
import { tellTrouble } from './troubles'

const MOST_FRAMES = 12
const frames: HTMLIFrameElement[] = []

/**
 * Fetches a file by a POST, because a download is recorded; the browser streams it to the disk. It is asked for in a
 * frame of its own that nobody sees: what is refused comes there, and is told where one is.
 */
export function download(address: string, fields: Record<string, string> = {}): void {
  const form = document.createElement('form')
  form.method = 'post'
  form.action = address
  form.target = newFrame()
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

let made = 0

function newFrame(): string {
  const frame = document.createElement('iframe')
  frame.hidden = true
  frame.title = 'Download'
  frame.name = `nod-download-${(made += 1)}`
  document.body.append(frame)
  // A file makes no page: what is loaded here is a refusal, or the browser's own word of a broken line.
  frame.addEventListener('load', () => {
    const text = textOf(frame)
    if (text === '') return
    const refused = refusedBy(text === null ? brokenLine() : problemIn(text))
    // That the session is over is asked and told over the page.
    if (refused.problem.code !== 'not_signed_in') tellTrouble(refused)
    frame.remove()
  })
  frames.push(frame)
  // One whose file is on its way to the disk is not needed any more, and which that is nobody tells.
  if (frames.length > MOST_FRAMES) frames.shift()?.remove()
  return frame.name
}

/** Null where the page is not Nod's. */
function textOf(frame: HTMLIFrameElement): string | null {
  try {
    return frame.contentDocument ? (frame.contentDocument.body?.textContent ?? '') : null
  } catch {
    return null
  }
}

function problemIn(text: string): Problem {
  try {
    return JSON.parse(text) as Problem
  } catch {
    return brokenLine('fault')
  }
}
