import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import { useState, type FormEvent } from 'react'

import { api, unwrap } from '../../api/client'
import { Refused } from '../../api/problems'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { ErrorNote } from '../../ui/Notes'

/** Signing in; in the demo its people stand ready. */
export function SignInPage() {
  const { next } = useSearch({ from: '/sign-in' })
  const client = useQueryClient()
  const navigate = useNavigate()
  const [email, setEmail] = useState('')
  const [password, setPassword] = useState('')
  const [code, setCode] = useState('')
  const [codeWanted, setCodeWanted] = useState(false)
  const [error, setError] = useState<unknown>(null)
  const [busy, setBusy] = useState(false)
  const demo = useQuery({ queryKey: ['demo-people'], queryFn: () => unwrap(api.GET('/api/demo-people')) })

  async function submit(event: FormEvent) {
    event.preventDefault()
    setBusy(true)
    setError(null)
    try {
      await unwrap(api.POST('/api/sign-in', { body: { email, password, code } }))
      client.clear()
      // A second stroke of either kind would lead outside.
      await navigate({ to: /^\/(?![/\\])/.test(next) ? next : '/' })
    } catch (refused) {
      if (refused instanceof Refused && refused.problem.code === 'code_wanted') setCodeWanted(true)
      else setError(refused)
    } finally {
      setBusy(false)
    }
  }

  return (
    <main className="mx-auto flex min-h-full max-w-[980px] flex-col justify-center gap-10 px-8 py-12 lg:flex-row">
      <section className="lg:w-[380px]">
        <div className="mb-6 flex items-center gap-3">
          <Logo className="size-9" />
          <h1 className="text-large font-bold">Nod</h1>
        </div>
        <form
          onSubmit={(event) => void submit(event)}
          className="flex flex-col gap-3 border border-line bg-surface p-5"
        >
          <TextField
            keep="secret"
            label="E-mail"
            type="email"
            autoComplete="username"
            required
            value={email}
            onChange={(event) => setEmail(event.target.value)}
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
              // The field appears because of what the person just did: it is what they type next.
              // eslint-disable-next-line jsx-a11y/no-autofocus
              autoFocus
              required
              value={code}
              onChange={(event) => setCode(event.target.value)}
            />
          )}
          <ErrorNote error={error} />
          <Button look="act" type="submit" busy={busy}>
            {busy ? 'Signing in …' : 'Sign in'}
          </Button>
          <Link to="/forgotten" className="text-list text-plum underline">
            I have forgotten my password
          </Link>
        </form>
      </section>
      {demo.data && demo.data.people.length > 0 && (
        <section className="flex-1">
          <h2 className="mb-1 text-head font-semibold">Brackwater Ferry Terminal, the demo</h2>
          <p className="mb-3 text-second">
            Choose a person to sign in as; the password of all is{' '}
            <span className="code text-ink">{demo.data.password}</span>.
          </p>
          <ul className="border-t border-line">
            {demo.data.people.map((person) => (
              <li key={person.email}>
                <button
                  type="button"
                  className="grid w-full grid-cols-[150px_1fr_auto] items-baseline gap-3 border-b border-line px-2 py-2 text-left hover:bg-surface"
                  onClick={() => {
                    setEmail(person.email)
                    setPassword(demo.data.password)
                  }}
                >
                  <span className="font-semibold">{person.name}</span>
                  <span className="text-second">
                    {person.job}, {person.company}
                  </span>
                  <span aria-hidden className="text-plum">
                    choose
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </main>
  )
}
