import { useMutation, useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'

import { api, unwrap, type Schemas } from '../api/client'
import { counted } from '../domain/counted'
import { Button } from './Button'
import { Checkbox } from './Checkbox'
import { Dialog } from './Dialog'
import { Select, TextField } from './Field'
import { ErrorNote, Loading } from './Notes'
import { sendOnce, useField, useKept, type Keep, type Kept } from './useKept'
import { DateField } from './DateField'

type ForKind = Schemas['GiveLink']['for_kind']

const FOR: { code: ForKind; words: string }[] = [
  { code: 'named', words: 'Named people, each by mail' },
  { code: 'signed_in', words: 'Anyone who is signed in to Nod' },
  { code: 'anyone', words: 'Anyone who has the link' },
]
const ALLOWS: Record<string, string> = {
  download: 'Download it',
  comment: 'Read and say things in its Talk',
  reply: 'Answer marks and set their states',
  mark: 'Mark, in ink that everybody there sees at once',
  acknowledge: 'Acknowledge it',
}

interface Wish {
  forKind: ForKind
  people: string[]
  allows: string[]
  endsOn: string
  password: string
  mostVisits: string
}

interface Props {
  kind: string
  target: string
  /** The thing's number and title. */
  words: string
  onClose: () => void
  /** What the link leads to is chosen here. */
  head?: ReactNode
}

const isList = (kind: string) => kind.startsWith('shared_')

function useGiving(kind: string, target: string) {
  return useMutation({
    mutationFn: ({ form, ...wish }: Wish & { form: Kept }) =>
      sendOnce(form, (more) =>
        unwrap(
          api.POST('/api/links', {
            ...more,
            body: {
              kind,
              target,
              for_kind: wish.forKind,
              people: wish.forKind === 'named' ? wish.people : [],
              allows: wish.allows,
              ends_on: wish.endsOn || null,
              password: wish.password,
              most_visits: wish.mostVisits ? Number(wish.mostVisits) : null,
            },
          }),
        ),
      ),
  })
}

/** Gives a link to a thing: for whom, what it allows, until when. */
export function ShareDialog({ kind, target, words, onClose, head }: Props) {
  const give = useGiving(kind, target)
  return (
    <Dialog title="Give a link" about={aboutIt(kind, words)} open onClose={onClose}>
      {!give.data && head && <div className="mb-3">{head}</div>}
      {give.data ? (
        <Given links={give.data.links} onClose={onClose} />
      ) : (
        <Form
          key={target}
          kind={kind}
          target={target}
          busy={give.isPending}
          error={give.error}
          words={words}
          onGive={(wish, form) => give.mutate({ ...wish, form })}
          onClose={onClose}
        />
      )}
    </Dialog>
  )
}

function aboutIt(kind: string, words: string): string {
  if (kind === 'session')
    return `To ${words}. Whoever opens it types their name and comes as your guest: they see these sheets while the session is open, and nothing else. It can be withdrawn at once.`
  const shows = isList(kind)
    ? 'It shows what is in it whenever it is opened, of what you may send out; it can be withdrawn at once.'
    : 'It shows the newest revision, as long as you may see it; it can be withdrawn at once.'
  return `To ${words}. ${shows}`
}

/** What the other sees, before it is given. */
function Preview({ kind, target }: { kind: string; target: string }) {
  const seen = useQuery({
    queryKey: ['link-offer', 'preview', kind, target],
    queryFn: () => unwrap(api.GET('/api/links/preview', { params: { query: { kind, target } } })),
    enabled: isList(kind),
  })
  if (!isList(kind)) return null
  if (!seen.data) return <ErrorNote error={seen.error} />
  const { total, first } = seen.data
  const rest = total - first.length
  return (
    <section aria-label="What they see" className="border border-line bg-paper px-3 py-2 text-list">
      <p className="font-medium">They see {total ? counted(total, 'document') : 'nothing now'}</p>
      <p className="code break-words text-second">{first.join(', ')}</p>
      {rest > 0 && <p className="text-second">and {rest} more</p>}
    </section>
  )
}

const NO_WISH: Wish = {
  forKind: 'named',
  people: [],
  allows: ['download'],
  endsOn: '',
  password: '',
  mostVisits: '',
}

const INTO_A_SESSION: Wish = { ...NO_WISH, forKind: 'anyone', allows: ['reply', 'mark'] }

interface FormProps {
  kind: string
  target: string
  busy: boolean
  error: unknown
  words: string
  onGive: (wish: Wish, form: Kept) => void
  onClose: () => void
}

function Form({ kind, target, words, busy, error, onGive, onClose }: FormProps) {
  const form = useKept('share', `${kind} ${target}`, words)
  const [kept, setKept] = useField(form, 'wish', kind === 'session' ? INTO_A_SESSION : NO_WISH)
  const [password, setPassword] = useState('')
  const wish = { ...kept, password }
  const offer = useQuery({
    queryKey: ['link-offer', kind, target],
    queryFn: () => unwrap(api.GET('/api/links/offer', { params: { query: { kind, target } } })),
  })
  const change = ({ password: secret, ...part }: Partial<Wish>) => {
    if (secret !== undefined) setPassword(secret)
    setKept((now) => ({ ...now, ...part }))
  }
  const nobody = wish.forKind === 'named' && !wish.people.length
  if (!offer.data)
    return offer.error ? <ErrorNote error={offer.error} /> : <Loading what="what can be given" />
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        onGive({ ...wish, allows: wish.allows.filter((each) => offer.data.offers.includes(each)) }, form)
      }}
    >
      <Select
        label="For"
        value={wish.forKind}
        onChange={(code) => change({ forKind: FOR.find((each) => each.code === code)?.code ?? 'named' })}
        choices={FOR}
      />
      {wish.forKind === 'named' && (
        <People people={offer.data.people} chosen={wish.people} onChange={(people) => change({ people })} />
      )}
      <Preview kind={kind} target={target} />
      <Allows offers={offer.data.offers} wish={wish} onChange={change} />
      <Limits keep={form} wish={wish} onChange={change} />
      <ErrorNote error={error} />
      <div className="flex items-center justify-end gap-3">
        {nobody && <span className="text-list text-second">Name at least one person.</span>}
        <Button onClick={onClose}>Cancel</Button>
        <Button look="act" type="submit" busy={busy} why={nobody && 'Name at least one person first.'}>
          Give the link
        </Button>
      </div>
    </form>
  )
}

interface PeopleProps {
  people: Schemas['Who'][]
  chosen: string[]
  onChange: (chosen: string[]) => void
}

function People({ people, chosen, onChange }: PeopleProps) {
  const [words, setWords] = useState('')
  const found = people.filter(
    (each) =>
      chosen.includes(each.id) || `${each.name} ${each.company}`.toLowerCase().includes(words.toLowerCase()),
  )
  return (
    <fieldset>
      <legend className="mb-0.5 text-note font-medium text-second">
        To whom, members and outside contacts
      </legend>
      <TextField
        keep="passing"
        label="Find by name or company"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <ul className="mt-1 max-h-[180px] overflow-auto border border-line px-2">
        {found.map((each) => (
          <li key={each.id} className="py-1 text-list">
            <Checkbox
              checked={chosen.includes(each.id)}
              onChange={(on) => onChange(on ? [...chosen, each.id] : chosen.filter((id) => id !== each.id))}
              label={`${each.name}, ${each.company}`}
            />
          </li>
        ))}
        {!found.length && <li className="py-1 text-list text-second">Nobody is called so.</li>}
      </ul>
    </fieldset>
  )
}

interface PartProps {
  wish: Wish
  onChange: (part: Partial<Wish>) => void
}

function Allows({ offers, wish, onChange }: PartProps & { offers: string[] }) {
  return (
    <fieldset className="flex flex-wrap gap-x-5 gap-y-1 text-list">
      <legend className="mb-0.5 text-note font-medium text-second">Besides looking, they may</legend>
      {offers
        .filter((each) => each in ALLOWS)
        .map((each) => (
          <Checkbox
            key={each}
            checked={wish.allows.includes(each)}
            onChange={(on) =>
              onChange({
                allows: on ? [...wish.allows, each] : wish.allows.filter((other) => other !== each),
              })
            }
            label={ALLOWS[each] ?? each}
          />
        ))}
    </fieldset>
  )
}

function Limits({ keep, wish, onChange }: PartProps & { keep: Keep }) {
  return (
    <div className="grid grid-cols-1 gap-2 md:grid-cols-3">
      <DateField
        keep={keep}
        label="Last day, if any"
        value={wish.endsOn}
        onChange={(endsOn) => onChange({ endsOn })}
      />
      <TextField
        keep="secret"
        label="Password, if wanted"
        autoComplete="off"
        placeholder="12 characters or more"
        value={wish.password}
        onChange={(event) => onChange({ password: event.target.value })}
      />
      <TextField
        keep={keep}
        label="Visits at most, if any"
        type="number"
        min={1}
        value={wish.mostVisits}
        onChange={(event) => onChange({ mostVisits: event.target.value })}
      />
    </div>
  )
}

function Given({ links, onClose }: { links: Schemas['GivenLink'][]; onClose: () => void }) {
  const [copied, setCopied] = useState(false)
  const copy = async (address: string) => {
    await navigator.clipboard.writeText(address)
    setCopied(true)
  }
  return (
    <div className="flex flex-col gap-3">
      <p>
        {links[0]?.to
          ? 'Each has it by mail. The addresses, should you need them:'
          : 'Pass it on with care: whoever has it is let in. It is shown here only once.'}
      </p>
      {links.map((each) => (
        <div key={each.id}>
          {each.to && <p className="text-list font-medium">{each.to.name}</p>}
          <p className="code border border-line px-2 py-1 text-list break-all select-all">{each.address}</p>
        </div>
      ))}
      <div className="flex justify-end gap-2">
        {links.length === 1 && links[0] && (
          <Button onClick={() => void copy(links[0]?.address ?? '')}>{copied ? 'Copied' : 'Copy it'}</Button>
        )}
        <Button look="act" onClick={onClose}>
          Done
        </Button>
      </div>
    </div>
  )
}
