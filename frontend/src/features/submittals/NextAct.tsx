import { useState } from 'react'

import { Button } from '../../ui/Button'
import { DateField } from '../../ui/DateField'
import { ErrorNote } from '../../ui/Notes'
import { ActDialog, type ManyAct } from './ActForms'
import { Answer, Close, Give, SendIn } from './RoundForms'
import { useSubmittalActs, type Submittal } from './useSubmittals'

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
  const may = (deed: string) => submittal.may.includes(deed)
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
      {may('deliver') && <Delivered submittal={submittal} />}
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
    <Button look={submittal.line.state === 'planned' ? 'act' : 'quiet'} onClick={onAsk}>
      {submittal.line.person ? 'Ask somebody else …' : 'Ask for it …'}
    </Button>
  )
}

function Prepare({ submittal }: { submittal: Submittal }) {
  const { prepare } = useSubmittalActs(submittal.line.id)
  return (
    <>
      <Button busy={prepare.isPending} onClick={() => prepare.mutate(submittal.line.version)}>
        We prepare it
      </Button>
      <ErrorNote error={prepare.error} />
    </>
  )
}

/** Whether it is what the submittal waits for: others may be done, too. */
function isNext(form: Form, { line, may }: Submittal): boolean {
  if (form === 'send in') return line.state !== 'planned' || !may.includes('ask')
  return form === 'answer' || form === 'close' || (form === 'give' && line.state === 'sent in')
}

interface ButtonsProps {
  submittal: Submittal
  open: Form | null
  onOpen: (form: Form | null) => void
}

function FormButtons({ submittal, open, onOpen }: ButtonsProps) {
  const { state } = submittal.line
  const forms = (Object.keys(FORMS) as Form[]).filter((form) => submittal.may.includes(form))
  return forms.map((form) => (
    <Button
      key={form}
      look={isNext(form, submittal) ? 'act' : 'quiet'}
      aria-expanded={open === form}
      onClick={() => onOpen(open === form ? null : form)}
    >
      {form === 'give' && state === 'under review' ? 'Give it to somebody else …' : WORDS[form]}
    </Button>
  ))
}

function Delivered({ submittal }: { submittal: Submittal }) {
  const acts = useSubmittalActs(submittal.line.id)
  return (
    <div className="flex flex-wrap items-end gap-2">
      <DateField
        label="Delivered to site"
        keep="passing"
        value={submittal.line.delivered_on ?? ''}
        onChange={(day) =>
          acts.deliver.mutate({ version: submittal.line.version, delivered_on: day || null })
        }
        className="w-[180px]"
      />
      <ErrorNote error={acts.deliver.error} />
    </div>
  )
}
