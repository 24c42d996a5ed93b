import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { TextArea, TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept, type Keep } from '../../ui/useKept'

type OutsideMail = Schemas['OutsideMail']

/** What a mail begins with; `below` is what a mail program puts under what is written. */
export interface Begun {
  answers?: string
  from_name?: string
  from_email?: string
  to?: string
  subject?: string
  below?: string
}

async function inBase64(file: File): Promise<{ name: string; content: string }> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const pieces: string[] = []
  for (let at = 0; at < bytes.length; at += 0x8000)
    pieces.push(String.fromCharCode(...bytes.subarray(at, at + 0x8000)))
  return { name: file.name, content: btoa(pieces.join('')) }
}

const begin = ({ from_name = '', from_email = '', to = '', subject = '' }: Begun) => ({
  from_name,
  from_email,
  to,
  subject,
})

interface Outside {
  from_name: string
  from_email: string
  to: string
  subject: string
  text: string
}

function useSending(begun: Begun, mail: Outside, files: File[], onSuccess: () => void) {
  return useMutation({
    mutationFn: async () => {
      const body: OutsideMail = {
        ...mail,
        answers: begun.answers ?? '',
        text: mail.text + (begun.below ?? ''),
        files: await Promise.all(files.map(inBase64)),
      }
      return unwrap(api.POST('/api/post-room', { body }))
    },
    onSuccess,
  })
}

/** A mail to Nod as somebody outside writes it, over the same SMTP. */
export function OutsideForm({ begun, onDone }: { begun: Begun; onDone: () => void }) {
  const form = useKept('outside-mail', begun.answers ?? begun.subject ?? '')
  const [mail, setMail] = useField<Outside>(form, 'mail', { ...begin(begun), text: '' })
  const [files, setFiles] = useState<File[]>([])
  const send = useSending(begun, mail, files, form.drop)
  if (send.data) return <SentNote said={send.data.said} onDone={onDone} />
  const addressed = Boolean(mail.to.trim() && mail.from_email.trim())
  return (
    <form
      className="flex max-w-[76ch] flex-col gap-2 border border-line bg-surface px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        send.mutate()
      }}
    >
      <Head keep={form} mail={mail} onChange={setMail} />
      <TextArea
        keep={form}
        label="Text"
        rows={4}
        value={mail.text}
        onChange={(event) => setMail({ ...mail, text: event.target.value })}
      />
      {begun.below && (
        <p className="text-note text-second">What it answers goes below, as mail programs do it.</p>
      )}
      <label className="text-list">
        <span className="mr-2 text-second">Files</span>
        <input type="file" multiple onChange={(event) => setFiles([...(event.target.files ?? [])])} />
      </label>
      <ErrorNote error={send.error} />
      <div className="flex items-center justify-end gap-2">
        {!addressed && <span className="text-list text-second">Say from whom and to whom.</span>}
        <Button onClick={onDone}>Cancel</Button>
        <Button
          look="act"
          type="submit"
          busy={send.isPending}
          why={!addressed && 'Say from whom and to whom first.'}
        >
          Send to Nod
        </Button>
      </div>
    </form>
  )
}

interface HeadProps {
  keep: Keep
  mail: Outside
  onChange: (mail: Outside) => void
}

function Head({ keep, mail, onChange }: HeadProps) {
  const field = (key: keyof Outside, label: string) => (
    <TextField
      keep={keep}
      label={label}
      value={mail[key]}
      onChange={(event) => onChange({ ...mail, [key]: event.target.value })}
    />
  )
  return (
    <>
      <div className="grid grid-cols-1 gap-2 md:grid-cols-2">
        {field('from_name', 'From, name')}
        {field('from_email', 'From, address')}
      </div>
      {field('to', 'To')}
      {field('subject', 'Subject')}
    </>
  )
}

/** What Nod’s mail server answered. */
export function SentNote({ said, onDone }: { said: string; onDone: () => void }) {
  return (
    <p role="status" className="flex max-w-[76ch] items-center justify-between gap-3 bg-plum-tint px-3 py-2">
      <span className="min-w-0 break-words">
        Nod’s mail server took it: <span className="code">{said}</span>
      </span>
      <Button small onClick={onDone}>
        Good
      </Button>
    </p>
  )
}
