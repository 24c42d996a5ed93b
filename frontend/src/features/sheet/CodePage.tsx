import { useQuery } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Logo } from '../../ui/Logo'

/** What the code on a print tells whoever scans it, without an account: current or not, and nothing else. */
export function CodePage() {
  const { code } = useParams({ from: '/c/$code' })
  const told = useQuery({
    queryKey: ['code', code],
    queryFn: () =>
      unwrapAs<Schemas['StillCurrent']>(api.GET('/api/codes/{code}', { params: { path: { code } } })),
    retry: false,
    staleTime: 0,
  })
  return (
    <main className="mx-auto flex min-h-screen max-w-[520px] flex-col gap-6 px-5 py-10">
      <Logo className="size-9" />
      {told.error && (
        <>
          <h1 className="text-title font-semibold">No print has this code</h1>
          <ErrorNote error={told.error} again={() => void told.refetch()} />
          <p>Scan it again, or type the address as it stands on the print.</p>
        </>
      )}
      {told.isPending && <Loading what="what this print is" />}
      {told.data && <Answer current={told.data.current} at={told.data.at} />}
    </main>
  )
}

function Answer({ current, at }: { current: boolean; at: string }) {
  const when = new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
  return (
    <section
      className={`border-2 px-5 py-6 ${current ? 'border-spruce text-spruce' : 'border-brick text-brick'}`}
    >
      <h1 className="text-large font-bold">{current ? '✓ Current' : '✗ Superseded'}</h1>
      <p className="mt-2 text-head text-ink">
        {current
          ? 'The revision on your print is the one that holds.'
          : 'The revision on your print no longer holds. Do not build from it; ask your document controller for the one that does.'}
      </p>
      <p className="mt-3 text-list text-second">Asked {when}.</p>
    </section>
  )
}
