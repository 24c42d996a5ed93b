import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState, type FormEvent } from 'react'

import { api, keepCsrfToken, unwrap } from '../../api/client'
import { useSeat, type Me } from '../../api/me'
import { noteSignedIn, onRefused, Refused } from '../../api/problems'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { TextField } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'

/** Whether an answer has said that nobody is signed in any more. */
export function useSessionOver(): [boolean, (over: boolean) => void] {
  const [over, setOver] = useState(false)
  useEffect(() => onRefused(({ problem }) => problem.code === 'not_signed_in' && setOver(true)), [])
  return [over, setOver]
}

function useSigningIn(onDone: () => void) {
  const { me } = useSeat()
  const client = useQueryClient()
  const [codeWanted, setCodeWanted] = useState(false)
  const [error, setError] = useState<unknown>(null)
  const [busy, setBusy] = useState(false)

  function goOn(again: Me) {
    keepCsrfToken(again.csrf_token, again.person.id)
    noteSignedIn()
    client.setQueryData(['me'], again)
    void client.invalidateQueries()
    onDone()
  }

  async function signIn(password: string, code: string) {
    setBusy(true)
    setError(null)
    try {
      await unwrap(api.POST('/api/sign-in', { body: { email: me.email, password, code } }))
      goOn(await unwrap(api.GET('/api/me')))
    } catch (refused) {
      if (refused instanceof Refused && refused.problem.code === 'code_wanted') setCodeWanted(true)
      else setError(refused)
    } finally {
      setBusy(false)
    }
  }
  return { signIn, codeWanted, error, busy }
}

/** Signing in again over the page, which stays as it is; somebody else is shown nothing of it. */
export function SessionOver({ onClose }: { onClose: () => void }) {
  const { me } = useSeat()
  const [password, setPassword] = useState('')
  const [code, setCode] = useState('')
  const { signIn, codeWanted, error, busy } = useSigningIn(onClose)

  function submit(event: FormEvent) {
    event.preventDefault()
    void signIn(password, code)
  }

  return (
    <Dialog
      open
      title="Your session is over"
      about={`Sign in again as ${me.person.name} and go on: what you typed is still here.`}
      onClose={onClose}
    >
      <form onSubmit={submit} className="flex flex-col gap-3">
        <TextField
          keep="secret"
          label="E-mail"
          type="email"
          autoComplete="username"
          readOnly
          value={me.email}
        />
        <TextField
          keep="secret"
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        {codeWanted && (
          <TextField
            keep="secret"
            label="Code of your authenticator app, or a recovery code"
            autoComplete="one-time-code"
            required
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        )}
        <ErrorNote error={error} />
        <div className="flex flex-wrap items-center justify-between gap-2">
          <a href="/sign-in" className="text-plum underline">
            I am somebody else
          </a>
          <Button look="act" type="submit" busy={busy}>
            {busy ? 'Signing in …' : 'Sign in and go on'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
