import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'

/** Switching the second factor on, with a picture for the app, and off again; each with a code of the app. */
export function SecondFactor({ on }: { on: boolean }) {
  const client = useQueryClient()
  const [code, setCode] = useState('')
  const begin = useMutation({ mutationFn: () => unwrap(api.POST('/api/account/second-factor')) })
  const settle = () => {
    setCode('')
    begin.reset()
    return client.invalidateQueries({ queryKey: ['account'] })
  }
  const confirm = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/second-factor/confirm', { body: { code } })),
    onSuccess: settle,
  })
  const off = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/second-factor/off', { body: { code } })),
    onSuccess: settle,
  })
  const act = on ? off : confirm
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
        act.mutate()
      }}
    >
      {on ? (
        <p className="text-spruce">It is on.</p>
      ) : (
        begin.data && (
          <div className="flex gap-4">
            <Picture rows={begin.data.picture} />
            <p className="flex-1">
              Point your authenticator app at this picture, or type this into it by hand:
              <br />
              <span className="code break-all">{begin.data.secret.replace(/(.{4})/g, '$1 ')}</span>
            </p>
          </div>
        )
      )}
      <div className="flex items-end gap-3">
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
        <Button look={on ? 'stop' : 'act'} type="submit" busy={act.isPending}>
          {on ? 'Switch it off' : 'Switch it on'}
        </Button>
      </div>
      <ErrorNote error={act.error} />
    </form>
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
