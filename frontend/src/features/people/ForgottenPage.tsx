import { useMutation } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { ErrorNote } from '../../ui/Notes'

/** Asks for a link by mail. The answer is the same whoever asks. */
export function ForgottenPage() {
  const [email, setEmail] = useState('')
  const ask = useMutation({
    mutationFn: () => unwrap(api.POST('/api/forgotten-password', { body: { email } })),
  })
  return (
    <main className="mx-auto flex min-h-full max-w-[440px] flex-col justify-center px-8 py-12">
      <div className="mb-6 flex items-center gap-3">
        <Logo className="size-9" />
        <h1 className="text-large font-bold">A new password</h1>
      </div>
      {ask.isSuccess ? (
        <p role="status" className="border border-line bg-surface p-5 text-read">
          If there is a sign-in for <strong>{email}</strong>, a mail with a link is on its way. The link works
          once, for two hours.
        </p>
      ) : (
        <form
          className="flex flex-col gap-3 border border-line bg-surface p-5"
          onSubmit={(event) => {
            event.preventDefault()
            ask.mutate()
          }}
        >
          <TextField
            keep="passing"
            label="E-mail"
            type="email"
            autoComplete="username"
            required
            value={email}
            onChange={(event) => setEmail(event.target.value)}
          />
          <ErrorNote error={ask.error} />
          <Button look="act" type="submit" busy={ask.isPending}>
            Send me a link
          </Button>
        </form>
      )}
      <Link to="/sign-in" search={{ next: '/' }} className="mt-4 text-plum underline">
        To the sign-in
      </Link>
    </main>
  )
}
