import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState, type FormEvent, type ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { Select, TextField } from '../../ui/Field'
import { differs, NewPassword } from '../../ui/NewPassword'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Follows } from './Follows'
import { SecondFactor } from './SecondFactor'
import { useField, useKept } from '../../ui/useKept'

type Account = Schemas['Account']

/** One's own password, second factor, sign-ins and notices. */
export function AccountPage() {
  const account = useQuery({ queryKey: ['account'], queryFn: () => unwrap(api.GET('/api/account')) })
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-[980px] px-6 py-5 max-md:px-4">
        <h1 className="text-title font-semibold">My account</h1>
        <ErrorNote error={account.error} />
        {account.isPending && <Loading what="your account" />}
        {account.data && (
          <>
            <p className="code mb-4 text-second">{account.data.email}</p>
            <Part
              title="Notices"
              about="How you are told besides the bell in Nod. Nobody is told of their own act, nor of what they may not see."
            >
              <Notices account={account.data} />
            </Part>
            <Part
              title="Following"
              about="What happens there is told to you as set above. Whoever sees a thing sees who follows it."
            >
              <Follows />
            </Part>
            <Part title="Password" about="Changing it ends all your other sign-ins.">
              <Password />
            </Part>
            <Part
              title="Second factor"
              about="A code of an authenticator app is asked for beside the password. Optional."
            >
              <SecondFactor on={account.data.second_factor_on} left={account.data.recovery_codes_left} />
            </Part>
            <Part
              title="Sign-ins"
              about="Browsers that are signed in as you. End those that you do not know."
            >
              <SignIns account={account.data} />
            </Part>
          </>
        )}
      </div>
    </div>
  )
}

function Part({ title, about, children }: { title: string; about: string; children: ReactNode }) {
  return (
    <section
      aria-label={title}
      className="grid gap-x-6 gap-y-2 md:grid-cols-[240px_minmax(0,1fr)] border-t border-line py-4"
    >
      <div>
        <h2 className="font-semibold">{title}</h2>
        <p className="text-list text-second">{about}</p>
      </div>
      <div>{children}</div>
    </section>
  )
}

function Notices({ account }: { account: Account }) {
  const client = useQueryClient()
  const form = useKept('account-notices', 'mine')
  const [hows, setHows] = useField<Record<string, string>>(
    form,
    'hows',
    Object.fromEntries(account.notices.map((each) => [each.code, each.how])),
  )
  const [hour, setHour] = useField(form, 'hour', String(account.summary_hour))
  const [zone, setZone] = useField(form, 'zone', account.time_zone)
  const save = useMutation({
    mutationFn: () =>
      unwrap(
        api.PUT('/api/account/notices', {
          body: {
            hows: Object.fromEntries(Object.entries(hows).filter(([, how]) => how)),
            summary_hour: Number(hour),
            time_zone: zone,
          },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['account'] })
      form.drop()
    },
  })
  return (
    <div className="flex max-w-[560px] flex-col gap-2">
      {account.notices.map((kind) => (
        <div key={kind.code} className="grid grid-cols-[1fr_170px] items-center gap-3">
          <span>{kind.words}</span>
          <Select
            hideLabel
            label={kind.words}
            value={hows[kind.code] ?? ''}
            onChange={(how) => setHows({ ...hows, [kind.code]: how })}
            choices={[
              { code: '', words: 'as the project sets it' },
              ...account.hows.filter(({ code }) => kind.hows.includes(code)),
            ]}
          />
        </div>
      ))}
      <div className="mt-1 flex items-end gap-3">
        <Select
          label="Daily summary at"
          className="w-[130px]"
          value={hour}
          onChange={setHour}
          choices={Array.from({ length: 24 }, (_, each) => ({
            code: String(each),
            words: `${String(each).padStart(2, '0')}:00`,
          }))}
        />
        <Select
          label="in the time zone"
          className="min-w-0 flex-1"
          value={zone}
          onChange={setZone}
          choices={[
            { code: '', words: 'of the project' },
            ...account.time_zones.map((each) => ({ code: each, words: each })),
          ]}
        />
        <Button look="act" busy={save.isPending} onClick={() => save.mutate()}>
          Save
        </Button>
      </div>
      <ErrorNote error={save.error} />
      <p role="status" className="text-second">
        {save.isSuccess && 'Saved'}
      </p>
    </div>
  )
}

function Password() {
  const client = useQueryClient()
  const [present, setPresent] = useState('')
  const [password, setPassword] = useState('')
  const [again, setAgain] = useState('')
  const unlike = differs(password, again)
  const change = useMutation({
    mutationFn: () => unwrap(api.POST('/api/account/password', { body: { present, password } })),
    onSuccess: () => {
      setPresent('')
      setPassword('')
      setAgain('')
      return client.invalidateQueries({ queryKey: ['account'] })
    },
  })
  function submit(event: FormEvent) {
    event.preventDefault()
    if (!unlike) change.mutate()
  }
  return (
    <form onSubmit={submit} className="grid max-w-[560px] items-start gap-3 sm:grid-cols-3">
      <TextField
        keep="secret"
        label="Present password"
        type="password"
        autoComplete="current-password"
        required
        value={present}
        onChange={(event) => setPresent(event.target.value)}
      />
      <NewPassword
        label="New, 12 characters or more"
        password={password}
        again={again}
        onPassword={setPassword}
        onAgain={setAgain}
      />
      <div className="col-span-3 flex items-center gap-3">
        <Button look="act" type="submit" busy={change.isPending} why={unlike && 'The two new ones differ.'}>
          Change the password
        </Button>
        <span role="status" className="text-second">
          {change.isSuccess && 'Changed'}
        </span>
      </div>
      <div className="col-span-3">
        <ErrorNote error={change.error} />
      </div>
    </form>
  )
}

function SignIns({ account }: { account: Account }) {
  const client = useQueryClient()
  const end = useMutation({
    mutationFn: (id: string) =>
      unwrap(api.DELETE('/api/account/sign-ins/{sign_in_id}', { params: { path: { sign_in_id: id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['account'] }),
  })
  const when = (text: string) =>
    new Date(text).toLocaleString('en-GB', {
      day: 'numeric',
      month: 'short',
      hour: '2-digit',
      minute: '2-digit',
    })
  return (
    <>
      <ul className="max-w-[560px]">
        {account.sign_ins.map((each) => (
          <li key={each.id} className="flex items-center gap-4 border-b border-line/60 py-1.5">
            <span className="flex-1">
              From <span className="code">{each.came_from || 'an unknown place'}</span>, since{' '}
              {when(each.began_at)}, until {when(each.ends_at)} at the latest
            </span>
            {each.this_one ? (
              <span className="text-second">this browser</span>
            ) : (
              <Button small busy={end.isPending} onClick={() => end.mutate(each.id)}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
      <ErrorNote error={end.error} />
    </>
  )
}
