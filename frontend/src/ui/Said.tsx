import type { Schemas } from '../api/client'
import { download } from '../api/download'
import { Attachments } from './Attachments'
import { MailText } from './MailText'
import { When } from './Standing'

type Author = Schemas['Author']

/** Who said it, and by what way, where it was not here. */
export function By({ author }: { author: Author }) {
  const ways = { person: '', file: 'from a file', mail: 'by mail', link: 'by a link' }
  return (
    <span title={author.taken_in_by ? `Taken in by ${author.taken_in_by}` : undefined}>
      {author.name} {author.company && <span className="code">{author.company}</span>}
      {ways[author.way] && <span className="italic"> {ways[author.way]}</span>}
    </span>
  )
}

/** Something that was said, and on which revision, where that is not the one on the screen. */
export function Said({ said, revision }: { said: Schemas['Reply']; revision: string }) {
  return (
    <div className="mb-1.5 border-l-2 border-line pl-2">
      <p className="text-note text-second">
        <By author={said.author} /> · <When at={said.at} time />
        {said.said_on && said.said_on !== revision && (
          <>
            {' '}
            · on <span className="code">{said.said_on}</span>
          </>
        )}
        {said.mail && (
          <>
            {' '}
            ·{' '}
            <button
              type="button"
              className="underline hover:text-ink"
              onClick={() => download(`/api/mail/${said.mail}/bytes`)}
            >
              the mail as it came
            </button>
          </>
        )}
      </p>
      <MailText text={said.text} folds={said.folds} />
      <Attachments attachments={said.attachments} />
    </div>
  )
}
