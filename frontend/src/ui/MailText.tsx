import { useState } from 'react'

import { stretchesOf, type Stretch } from '../domain/folds'

interface Props {
  text: string
  folds: number[][]
}

/** What a mail says; what it quotes, and its signature, can be unfolded. */
export function MailText({ text, folds }: Props) {
  return stretchesOf(text, folds).map((each, place) =>
    each.folded ? (
      <Folded key={place} stretch={each} />
    ) : (
      <p key={place} className="text-body break-words whitespace-pre-line">
        {each.words}
      </p>
    ),
  )
}

function Folded({ stretch }: { stretch: Stretch }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="my-0.5 block text-note text-second underline hover:text-ink"
      >
        {open ? 'Fold away what is quoted' : 'Show what is quoted'}
      </button>
      {open && (
        <p className="border-l-2 border-line pl-2 text-list break-words whitespace-pre-line text-second">
          {stretch.words}
        </p>
      )}
    </>
  )
}
