import { useEffect, useState } from 'react'

import { api, unwrap, type Schemas } from '../api/client'
import { putFile } from '../api/putFile'
import { useField, type Kept } from './useKept'

type Attachment = Schemas['Attachment']

/** A thing that files are added to. */
export interface On {
  kind: string
  target: string
}

/** A file on its way, or one that did not get there. */
export interface Coming {
  key: string
  file: File
  error: unknown
}

let files = 0

/** How files are added, and taken back. */
export interface Ways {
  add: (file: File) => Promise<Attachment>
  takeBack: (id: string) => Promise<unknown>
}

function waysOn(on: On): Ways {
  return {
    add: (file) =>
      putFile<Attachment>(
        `/api/attachments/${on.kind}/${on.target}?name=${encodeURIComponent(file.name)}`,
        file,
      ),
    takeBack: (id) =>
      unwrap(api.DELETE('/api/attachments/{attachment_id}', { params: { path: { attachment_id: id } } })),
  }
}

export function useAttaching(form: Kept, on: On | null, initial: Attachment[] = NONE) {
  return useAttachingBy(form, on && waysOn(on), initial)
}

const NONE: Attachment[] = []

/**
 * Files that are added to what is being said: those that are there are kept as its words are, until it is said.
 * `initial` are those that the server has.
 */
export function useAttachingBy(form: Kept, ways: Ways | null, initial: Attachment[] = NONE) {
  const [there, keep] = useField<Attachment[]>(form, 'files', initial)
  const [coming, setComing] = useState<readonly Coming[]>([])
  const sending = coming.some((each) => each.error === null)

  // A page that is left while a file is on its way loses it: the browser asks first.
  useEffect(() => {
    if (!sending) return
    const ask = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', ask)
    return () => window.removeEventListener('beforeunload', ask)
  }, [sending])

  async function send(each: Coming) {
    if (!ways) return
    try {
      const added = await ways.add(each.file)
      keep((now) => [...now, added])
      setComing((now) => now.filter((other) => other.key !== each.key))
    } catch (error) {
      setComing((now) => now.map((other) => (other.key === each.key ? { ...other, error } : other)))
    }
  }

  return {
    there,
    coming,
    /** Whether all that was added has come. */
    settled: coming.length === 0,
    add: (added: Iterable<File>) => {
      if (!ways) return
      const all = [...added].map((file) => ({ key: `${(files += 1)}`, file, error: null }))
      setComing((now) => [...now, ...all])
      for (const each of all) void send(each)
    },
    again: (each: Coming) => {
      setComing((now) => now.map((other) => (other.key === each.key ? { ...other, error: null } : other)))
      void send(each)
    },
    leave: (each: Coming) => setComing((now) => now.filter((other) => other.key !== each.key)),
    takeBack: (attachment: Attachment) => {
      keep((now) => now.filter((each) => each.id !== attachment.id))
      // One that was taken back elsewhere is gone as well.
      ways?.takeBack(attachment.id).catch(() => undefined)
    },
  }
}

export type Attaching = ReturnType<typeof useAttaching>
