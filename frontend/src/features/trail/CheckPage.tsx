import { useMutation } from '@tanstack/react-query'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { TextArea, TextField } from '../../ui/Field'
import { Logo } from '../../ui/Logo'
import { ErrorNote } from '../../ui/Notes'
import { useField, useKept, type Keep } from '../../ui/useKept'

type Checked = Schemas['ProofChecked']

/** For an outside party: what a proof proves, in words. The same is said by `nod check`, without any server. */
export function CheckPage() {
  const form = useKept('check-proof', 'any')
  const [proof, setProof] = useField(form, 'proof', '')
  const [key, setKey] = useField(form, 'key', '')
  const [seal, setSeal] = useField(form, 'seal', '')
  const check = useMutation({
    mutationFn: () => unwrap(api.POST('/api/proofs/check', { body: { proof, key, seal } })),
  })
  const ready = proof.trim() !== '' && key.trim() !== ''
  return (
    <main className="mx-auto flex min-h-screen max-w-[720px] flex-col gap-5 px-5 py-10">
      <Logo className="size-9" />
      <h1 className="text-title font-semibold">Check a proof</h1>
      <p className="text-read">
        A proof says that an entry stood in a trail when it was sealed. With a seal that you have kept from
        before, it also says that nothing in the trail was rewritten since. You need no account, and can check
        the same on your own computer with <span className="code">nod check</span>.
      </p>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault()
          check.mutate()
        }}
      >
        <Filled keep={form} label="The proof" value={proof} onChange={setProof} rows={6} />
        <TextField
          keep={form}
          label="The key, as it was handed to you"
          value={key}
          onChange={(event) => setKey(event.target.value)}
          spellCheck={false}
        />
        <Filled
          keep={form}
          label="A seal from before, if you have one"
          value={seal}
          onChange={setSeal}
          rows={5}
        />
        <ErrorNote error={check.error} />
        <div className="flex items-center gap-3">
          <Button
            look="act"
            type="submit"
            busy={check.isPending}
            why={!ready && 'Put in the proof and the key first.'}
          >
            Check
          </Button>
          {!ready && <span className="text-second">Give the proof and the key first.</span>}
        </div>
      </form>
      {check.data && <Result found={check.data} />}
    </main>
  )
}

interface FilledProps {
  keep: Keep
  label: string
  value: string
  rows: number
  onChange: (value: string) => void
}

/** Text that is pasted, or read from a file. */
function Filled({ keep, label, value, rows, onChange }: FilledProps) {
  return (
    <div>
      <TextArea
        keep={keep}
        label={label}
        rows={rows}
        value={value}
        spellCheck={false}
        className="code"
        onChange={(event) => onChange(event.target.value)}
      />
      <input
        type="file"
        aria-label={`${label}, from a file`}
        className="mt-1 min-h-6 max-w-full text-list text-second"
        onChange={(event) => void event.target.files?.[0]?.text().then(onChange)}
      />
    </div>
  )
}

function Result({ found }: { found: Checked }) {
  return (
    <section
      role="status"
      aria-label="What is proven"
      className={`border-2 px-5 py-4 ${found.sound ? 'border-spruce' : 'border-brick'}`}
    >
      <h2 className={`text-title font-bold ${found.sound ? 'text-spruce' : 'text-brick'}`}>
        {found.sound ? '✓ It holds' : '✗ It does not hold'}
      </h2>
      <ul className="mt-2 flex flex-col gap-1.5 text-read">
        {found.lines.map((line) => (
          <li key={line} className="break-words">
            {line.replace(/^NOT PROVEN: /, '')}
          </li>
        ))}
      </ul>
      {found.entry && (
        <pre className="code mt-3 overflow-x-auto border border-line bg-ground px-3 py-2 text-note break-words whitespace-pre-wrap">
          {found.entry}
        </pre>
      )}
    </section>
  )
}
