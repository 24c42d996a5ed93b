import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from '@tanstack/react-router'
import { useState, type FormEvent } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { differs, NewPassword } from '../../ui/NewPassword'
import { ErrorNote, Loading } from '../../ui/Notes'
import { useHere } from '../../ui/useHere'

/** Where a mailed link leads: an invitation, or a forgotten password. */
export function KeyLinkPage() {
  const { token } = useParams({ from: '/k/$token' })
  const link = useQuery({
    queryKey: ['key-link', token],
    queryFn: () => unwrap(api.GET('/api/key-links/{token}', { params: { path: { token } } })),
    retry: false,
    staleTime: Infinity,
  })
  return (
    <main className="mx-auto flex min-h-full max-w-[480px] flex-col justify-center px-8 py-12">
      <div className="mb-6 flex items-center gap-3">
        <Logo className="size-9" />
        <h1 className="text-large font-bold">
          {link.data?.kind === 'forgotten' ? 'A new password' : 'Welcome to Nod'}
        </h1>
      </div>
      {link.isPending && <Loading what="the link" />}
      <ErrorNote error={link.error} />
      {link.data && <SetPassword token={token} link={link.data} />}
      {link.error && (
        <Link to="/sign-in" search={{ next: '/' }} className="mt-4 text-plum underline">
          To the sign-in
        </Link>
      )}
    </main>
  )
}

function SetPassword({ token, link }: { token: string; link: Schemas['KeyLinkShown'] }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const [name, setName] = useState(link.name)
  const [password, setPassword] = useState('')
  const [again, setAgain] = useState('')
  const here = useHere()
  const set = useMutation({
    mutationFn: () =>
      unwrap(api.POST('/api/key-links/{token}', { params: { path: { token } }, body: { password, name } })),
    onSuccess: async () => {
      client.clear()
      await here(() => navigate({ to: '/' }))
    },
  })
  const unlike = differs(password, again)

  function submit(event: FormEvent) {
    event.preventDefault()
    if (!unlike) set.mutate()
  }

  return (
    <form onSubmit={submit} className="flex flex-col gap-3 border border-line bg-surface p-5">
      {link.project && (
        <p className="text-read">
          You have been added to <strong>{link.project}</strong>. Set a password and go in.
        </p>
      )}
      <p className="text-second">
        For <span className="code text-ink">{link.email}</span>
      </p>
      {link.kind === 'invitation' && (
        <TextField
          keep="secret"
          label="Your name"
          autoComplete="name"
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      )}
      <NewPassword
        label="Password, at least 12 characters"
        password={password}
        again={again}
        onPassword={setPassword}
        onAgain={setAgain}
      />
      <ErrorNote error={set.error} />
      <Button look="act" type="submit" busy={set.isPending} why={unlike && 'The two differ.'}>
        Set the password and go in
      </Button>
    </form>
  )
}
