import { useQuery } from '@tanstack/react-query'
import { useParams } from '@tanstack/react-router'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { fullInstant } from '../../domain/dates'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Logo } from '../../ui/Logo'
import { ZONE } from './guestVisit'

type Told = Schemas['CoverTold']
type Document = Told['documents'][number]

/** What the code on a cover sheet tells whoever scans it, without an account: what of the transmittal still holds. */
export function CoverPage() {
  const { code } = useParams({ from: '/cover/$code' })
  const told = useQuery({
    queryKey: ['code', 'cover', code],
    queryFn: () => unwrapAs<Told>(api.GET('/api/covers/{code}', { params: { path: { code } } })),
    retry: false,
    staleTime: 0,
  })
  return (
    <main className="mx-auto flex min-h-screen max-w-[620px] flex-col gap-5 px-5 py-10">
      <Logo className="size-9" />
      {told.error && (
        <>
          <h1 className="text-title font-semibold">No cover sheet has this code</h1>
          <ErrorNote error={told.error} again={() => void told.refetch()} />
          <p>Scan it again, or type the address as it stands on the cover sheet.</p>
        </>
      )}
      {told.isPending && <Loading what="what still holds" />}
      {told.data && <Answer told={told.data} />}
    </main>
  )
}

/** A sign and a colour beside the words for how the revision that was sent stands. */
function signOf({ kind, holds }: Document): [string, string] {
  if (holds) return ['✓', 'text-spruce']
  return ['superseded', 'withdrawn'].includes(kind) ? ['✗', 'text-brick'] : ['○', 'text-ochre']
}

function headOf({ void_at: voidAt, replaced_by: instead, documents, holding: good }: Told): [string, string] {
  if (voidAt) return ['border-brick text-brick', instead ? `✗ Void. In its place came ${instead}.` : '✗ Void']
  if (good === documents.length) return ['border-spruce text-spruce', '✓ All of it is in force']
  return ['border-ochre text-ochre', `${good} of ${documents.length} in force`]
}

function Answer({ told }: { told: Told }) {
  const [tone, heading] = headOf(told)
  return (
    <>
      <section className={`border-2 px-5 py-4 ${tone}`}>
        <h1 className="text-title font-bold">{heading}</h1>
        <p className="mt-1 text-read text-ink">
          Transmittal <span className="code">{told.number}</span> of {told.company}, sent{' '}
          {fullInstant(told.sent_at, ZONE)}.{told.void_at && ' Do not work from it.'}
        </p>
        <p className="mt-1 text-list text-second">Asked {fullInstant(told.at, ZONE)}.</p>
      </section>
      {!told.void_at && (
        <ul aria-label="Documents" className="border-t border-line">
          {told.documents.map((each) => {
            const [sign, colour] = signOf(each)
            return (
              <li key={each.number} className="border-b border-line py-1.5">
                <span className="code break-all">{each.number}</span>{' '}
                <span className="code font-bold">{each.revision}</span>
                <span className={`block ${colour}`}>
                  <span aria-hidden>{sign}</span> {each.words}
                </span>
              </li>
            )
          })}
        </ul>
      )}
    </>
  )
}
