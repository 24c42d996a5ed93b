import { useState } from 'react'

import { download } from '../../api/download'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'

const PAPERS = [
  { code: 'own', words: 'its own size, to scale' },
  { code: 'A4', words: 'fitted to A4' },
  { code: 'A3', words: 'fitted to A3' },
  { code: 'A2', words: 'fitted to A2' },
  { code: 'A1', words: 'fitted to A1' },
]

interface Props {
  revisionId: string
  ink: number
  open: boolean
  onClose: () => void
}

/** A PDF for the printer, with a code that tells whether the revision is still current. */
export function PrintDialog({ revisionId, ink, open, onClose }: Props) {
  const [paper, setPaper] = useState('own')
  const [marks, setMarks] = useState(true)
  return (
    <Dialog
      title="Print this sheet"
      about="Each print has a code. Whoever scans it is told whether this revision is still current, and nothing else."
      open={open}
      onClose={onClose}
    >
      <div className="flex flex-col gap-3">
        <Select label="Paper" value={paper} onChange={setPaper} choices={PAPERS} />
        <Checkbox
          label={ink ? `With the ${ink} ${ink === 1 ? 'mark' : 'marks'} in ink` : 'Nothing is in ink'}
          checked={marks && ink > 0}
          disabled={!ink}
          onChange={setMarks}
        />
        <div>
          <Button
            look="act"
            onClick={() => {
              download(`/api/sheets/${revisionId}/print`, { paper, marks: String(marks && ink > 0) })
              onClose()
            }}
          >
            Make the PDF
          </Button>
        </div>
      </div>
    </Dialog>
  )
}
