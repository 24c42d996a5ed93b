import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { Select } from '../../ui/Field'
import { ErrorNote } from '../../ui/Notes'
import { SentNote } from './OutsideForm'

type Why = Schemas['Bounce']['why']

const WHYS: { code: Why; words: string }[] = [
  { code: 'no_mailbox', words: 'There is no such mailbox' },
  { code: 'full', words: 'The mailbox is full' },
  { code: 'too_large', words: 'The mail is too large' },
  { code: 'late', words: 'It is late, and tried again' },
]

/** The mail comes back, as its reader's server would send it. */
export function BounceForm({ mailId, onDone }: { mailId: string; onDone: () => void }) {
  const [why, setWhy] = useState<Why>('no_mailbox')
  const bounce = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/post-room/{mail_id}/bounce', { params: { path: { mail_id: mailId } }, body: { why } }),
      ),
  })
  return (
    <div className="mb-3">
      {bounce.data ? (
        <SentNote said={bounce.data.said} onDone={onDone} />
      ) : (
        <div className="flex max-w-[76ch] flex-wrap items-end gap-2">
          <Select
            label="Because"
            value={why}
            onChange={(code) => setWhy(WHYS.find((each) => each.code === code)?.code ?? 'no_mailbox')}
            choices={WHYS}
          />
          <Button look="act" busy={bounce.isPending} onClick={() => bounce.mutate()}>
            Send it back
          </Button>
          <Button onClick={onDone}>Cancel</Button>
        </div>
      )}
      <ErrorNote error={bounce.error} />
    </div>
  )
}
