import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'

interface Props {
  on: boolean
  /** How many recovery codes have not been used. */
  left: number
}

/** Switching the second factor on, with a picture for the app and codes on paper, and off again. */
export function SecondFactor({ on, left }: Props) {
  const client = useQueryClient()
  const [code, setCode] = useState('')
  const [codes, setCodes] = useState<string[]>([])
  const begin = useMutation({ mutationFn: () => unwrap(api.POST('/api/account/second-factor')) })
  const settle = (drawn?: { codes: string[] }) => {
    setCode('')
    setCodes(drawn?.codes ?? [])
    begin.reset()
    return client.invalidateQueries({ queryKey: ['account'] })
  }
  const confirm = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/second-factor/confirm', { body: { code } })),
    onSuccess: settle,
  })
  const draw = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/second-factor/recovery-codes', { body: { code } })),
    onSuccess: settle,
  })
  const off = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/second-factor/off', { body: { code } })),
    onSuccess: () => settle(),
  })
  if (codes.length) return <Codes codes={codes} onDone={() => setCodes([])} />
  if (!on && !begin.data)
    return (
      <div className="flex flex-col items-start gap-2">
        <p>It is off.</p>
        <Button busy={begin.isPending} onClick={() => begin.mutate()}>
          Set it up
        </Button>
        <ErrorNote error={begin.error} />
      </div>
    )
  return (
    <form
      className="flex max-w-[560px] flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        ;(on ? draw : confirm).mutate()
      }}
    >
      <State on={on} left={left} begun={begin.data} />
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          keep="secret"
          label="The six figures it shows"
          inputMode="numeric"
          autoComplete="one-time-code"
          className="w-[180px]"
          required
          value={code}
          onChange={(event) => setCode(event.target.value)}
        />
        <Button look="act" type="submit" busy={confirm.isPending || draw.isPending}>
          {on ? 'Draw new recovery codes' : 'Switch it on'}
        </Button>
        {on && (
          <Button
            look="stop"
            busy={off.isPending}
            why={!code && 'Type a code first.'}
            onClick={() => off.mutate()}
          >
            Switch it off
          </Button>
        )}
      </div>
      <ErrorNote error={confirm.error ?? draw.error ?? off.error} />
    </form>
  )
}

/** That it is on, or what the app has to be told. */
function State({ on, left, begun }: Props & { begun: Schemas['SecondFactorBegun'] | undefined }) {
  if (on)
    return (
      <p>
        <span className="text-spruce">It is on.</span> {counted(left, 'recovery code')} left, for when the app
        is lost.
      </p>
    )
  if (!begun) return null
  return (
    <div className="flex gap-4 max-sm:flex-col">
      <Picture rows={begun.picture} />
      <p className="flex-1">
        Point your authenticator app at this picture, or type this into it by hand:
        <br />
        <span className="code break-all">{begun.secret.replace(/(.{4})/g, '$1 ')}</span>
      </p>
    </div>
  )
}

/** Shown this once: to be printed, kept in a file, or written down. */
function Codes({ codes, onDone }: { codes: readonly string[]; onDone: () => void }) {
  const file = `data:text/plain;charset=utf-8,${encodeURIComponent(`Recovery codes for Nod\r\n${codes.join('\r\n')}\r\n`)}`
  return (
    <div className="flex max-w-[560px] flex-col items-start gap-3">
      <p>
        <strong>Keep these ten recovery codes where your telephone is not.</strong> Each signs you in once, in
        place of the app. They are not shown again; those from before are worth nothing.
      </p>
      <ul
        aria-label="Recovery codes"
        className="code grid grid-cols-2 gap-x-8 gap-y-1 border border-line px-4 py-3"
      >
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-3">
        <a
          className="inline-flex min-h-8 items-center text-plum underline"
          href={file}
          download="Recovery codes for Nod.txt"
        >
          Keep them in a file
        </a>
        <Button look="act" onClick={onDone}>
          I have them
        </Button>
      </div>
    </div>
  )
}

/** A code of squares, drawn here so that the secret goes through no picture file. */
function Picture({ rows }: { rows: readonly string[] }) {
  const size = rows.length + 8
  const path = rows
    .flatMap((row, y) => [...row].map((dark, x) => (dark === '1' ? `M${x + 4} ${y + 4}h1v1h-1z` : '')))
    .join('')
  return (
    <svg
      role="img"
      aria-label="Code for the authenticator app"
      viewBox={`0 0 ${size} ${size}`}
      className="size-[180px] shrink-0 bg-white"
      shapeRendering="crispEdges"
    >
      <path d={path} fill="#000" />
    </svg>
  )
}
