import { useState } from 'react'

import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import { ActDialog, type ManyAct } from './ActForms'
import { Answer, Close, Delivered, Give, SendIn } from './RoundForms'
import { useActing, useSubmittalActs, type Submittal } from './useSubmittals'

type Form = 'send in' | 'give' | 'answer' | 'answer for' | 'close'

const WORDS: Record<Form, string> = {
  'send in': 'Send it in …',
  give: 'Give it on to answer …',
  answer: 'Answer …',
  'answer for': 'Enter their answer …',
  close: 'Close it …',
}

const FORMS = {
  'send in': SendIn,
  give: Give,
  answer: Answer,
  'answer for': (props: { submittal: Submittal; onDone: () => void }) => <Answer {...props} onBehalf />,
  close: Close,
}

/** What is to be done now, by whoever looks; other acts beside it. */
export function NextAct({ submittal }: { submittal: Submittal }) {
  const [open, setOpen] = useState<Form | null>(null)
  const [many, setMany] = useState<ManyAct | null>(null)
  const may = (deed: string) => submittal.line.may.includes(deed)
  const Shown = open && may(open) ? FORMS[open] : null
  return (
    <section aria-label="What can be done" className="flex flex-col gap-3">
      <div className="flex flex-wrap gap-2">
        {may('ask') && <AskButton submittal={submittal} onAsk={() => setMany('ask')} />}
        {may('prepare') && <Prepare submittal={submittal} />}
        <FormButtons submittal={submittal} open={open} onOpen={setOpen} />
        {may('remind') && <Button onClick={() => setMany('remind')}>Remind …</Button>}
        {may('void') && (
          <Button look="stop" onClick={() => setMany('void')}>
            Void …
          </Button>
        )}
      </div>
      {Shown && (
        <div className="border border-line bg-paper px-3 py-3">
          <Shown submittal={submittal} onDone={() => setOpen(null)} />
        </div>
      )}
      {may('deliver') && <Delivered submittal={submittal} onDone={() => undefined} />}
      {many && (
        <ActDialog
          act={many}
          lines={[submittal.line]}
          onClose={() => setMany(null)}
          onDone={() => setMany(null)}
        />
      )}
    </section>
  )
}

function AskButton({ submittal, onAsk }: { submittal: Submittal; onAsk: () => void }) {
  return (
    <Button look={submittal.next === 'ask' ? 'act' : 'quiet'} onClick={onAsk}>
      {submittal.line.person ? 'Ask somebody else …' : 'Ask for it …'}
    </Button>
  )
}

function Prepare({ submittal }: { submittal: Submittal }) {
  const { prepare } = useSubmittalActs(submittal.line.id)
  const acting = useActing()
  return (
    <>
      <Button busy={acting} onClick={() => prepare.mutate(submittal.line.version)}>
        We prepare it
      </Button>
      <ErrorNote error={prepare.error} />
    </>
  )
}

interface ButtonsProps {
  submittal: Submittal
  open: Form | null
  onOpen: (form: Form | null) => void
}

function FormButtons({ submittal, open, onOpen }: ButtonsProps) {
  const { state } = submittal.line
  const forms = (Object.keys(FORMS) as Form[]).filter((form) => submittal.line.may.includes(form))
  return forms.map((form) => (
    <Button
      key={form}
      look={form === submittal.next ? 'act' : 'quiet'}
      aria-expanded={open === form}
      onClick={() => onOpen(open === form ? null : form)}
    >
      {form === 'give' && state === 'under review' ? 'Give it to somebody else …' : WORDS[form]}
    </Button>
  ))
}
