import { useQuery } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Logo } from '../../ui/Logo'

/** What the code on a print tells whoever scans it, without an account: whether its revision is in force, and which is. */
export function CodePage() {
  const { code } = useParams({ from: '/c/$code' })
  const told = useQuery({
    queryKey: ['code', code],
    queryFn: () =>
      unwrapAs<Schemas['StillInForce']>(api.GET('/api/codes/{code}', { params: { path: { code } } })),
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
      {told.data && <Answer told={told.data} />}
    </main>
  )
}

type Told = Schemas['StillInForce']

/** By how its revision stands: is it a good one, its heading, and what to do. */
function sayingOf({ kind, revision, in_force: inForce }: Told): [boolean | null, string, string] {
  const ask = 'ask your document controller for it.'
  if (kind === 'in_force')
    return [true, '✓ In force', `${revision}, which your print shows, is the one to work from.`]
  if (kind === 'ahead')
    return [
      true,
      '✓ In force',
      `${revision}, which your print shows, is the one to work from. A later one is not released yet.`,
    ]
  if (kind === 'withdrawn')
    return [false, '✗ Withdrawn', 'The document of your print was withdrawn. Do not build from it.']
  if (kind === 'passed')
    return [
      false,
      '✗ Superseded',
      `Do not build from ${revision}, which your print shows. Another revision is in force; ${ask}`,
    ]
  if (kind === 'superseded')
    return [
      false,
      '✗ Superseded',
      `Do not build from ${revision}, which your print shows. ${inForce ? `${inForce} is in force; ${ask}` : 'Nothing of it is in force.'}`,
    ]
  return [
    null,
    '○ Not released',
    `Do not build from ${revision}, which your print shows: it is not released. ${inForce ? `${inForce} is in force; ${ask}` : 'Nothing of it is in force yet.'}`,
  ]
}

function Answer({ told }: { told: Told }) {
  const when = new Date(told.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
  const [good, heading, words] = sayingOf(told)
  const tone = good
    ? 'border-spruce text-spruce'
    : good === null
      ? 'border-ochre text-ochre'
      : 'border-brick text-brick'
  return (
    <section className={`border-2 px-5 py-6 ${tone}`}>
      <h1 className="text-large font-bold">{heading}</h1>
      <p className="mt-2 text-head text-ink">{words}</p>
      <p className="mt-3 text-list text-second">Asked {when}.</p>
    </section>
  )
}
