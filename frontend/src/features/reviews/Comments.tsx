import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { download } from '../../api/download'
import { isLost } from '../../api/fetched'
import { counted } from '../../domain/counted'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { Empty, ErrorNote, Loading } from '../../ui/Notes'
import { GraveMark } from '../../ui/Grave'
import { Select } from '../../ui/Field'
import { When } from '../../ui/Standing'
import { AddComment } from './AddComment'
import { AskOutside } from './AskOutside'
import { CommentActForm } from './CommentActForm'
import { ResponsesIn } from './ResponsesIn'
import { useComments, type Comment, type CommentSheet } from './useComments'

/** The comment sheet: numbered, with how grave each is, the author's response and the close-out. */
export function Comments({ reviewId }: { reviewId: string }) {
  const sheet = useComments(reviewId)
  const [openOnly, setOpenOnly] = useState(false)
  const [document, setDocument] = useState('')
  if (isLost(sheet)) return <ErrorNote error={sheet.error} again={() => void sheet.refetch()} />
  if (!sheet.data) return <Loading what="the comments" />
  const shown = sheet.data.comments.filter(
    (each) => (!openOnly || each.state === 'open') && (!document || each.document === document),
  )
  return (
    <div className="flex flex-col gap-3">
      <Tally sheet={sheet.data} />
      {!sheet.data.whole && (
        <p className="text-second">
          Comments are kept among the people of this review. You see those on a document when it has left.
        </p>
      )}
      {sheet.data.comments.length > 0 && (
        <div className="flex flex-wrap items-end gap-3">
          {sheet.data.by_document.length > 1 && (
            <Select
              label="Document"
              value={document}
              onChange={setDocument}
              choices={[
                { code: '', words: 'all documents' },
                ...sheet.data.by_document.map((each) => ({
                  code: each.of,
                  words: `${each.of}, ${each.open} open of ${each.raised}`,
                })),
              ]}
            />
          )}
          <Checkbox label="open ones only" checked={openOnly} onChange={setOpenOnly} />
        </div>
      )}
      {shown.length > 0 ? (
        <ol aria-label="Comments" className="border-t border-line">
          {shown.map((each) => (
            <Line key={each.id} comment={each} reviewId={reviewId} />
          ))}
        </ol>
      ) : (
        <Empty>
          {sheet.data.comments.length
            ? 'None of the comments is like that.'
            : sheet.data.whole
              ? NOTHING
              : 'None is shown yet.'}
        </Empty>
      )}
      <AddComment sheet={sheet.data} />
      <AskOutside sheet={sheet.data} />
      <Files sheet={sheet.data} />
    </div>
  )
}

const NOTHING = 'What reviewers say of the documents, and mark on them, is numbered here once they hand in.'

function Tally({ sheet }: { sheet: CommentSheet }) {
  const { raised, closed, open, musts } = sheet.all
  if (!raised) return null
  return (
    <div>
      <p role="status" className="text-read">
        <b>{counted(raised, 'comment')}</b>: {closed} closed, {open} open
        {musts > 0 && <span className="font-semibold text-brick">; {musts} must be done</span>}
      </p>
      {sheet.by_company.length > 1 && (
        <p className="text-note text-second">
          {sheet.by_company.map((each) => `${each.of} ${each.open} open of ${each.raised}`).join(', ')}
        </p>
      )}
    </div>
  )
}

function Line({ comment, reviewId }: { comment: Comment; reviewId: string }) {
  return (
    <li className="grid grid-cols-[30px_1fr] gap-x-2 border-b border-line py-2 text-list">
      <span className="text-head font-bold text-plum">{comment.number}</span>
      <div className="min-w-0">
        <p className="flex flex-wrap items-baseline gap-x-2">
          <GraveMark grave={comment.grave} />
          <Link
            to="/sheet/$revisionId"
            params={{ revisionId: comment.revision_id }}
            {...(comment.mark_id ? { search: { mark: comment.mark_id } } : {})}
            className="code inline-flex min-h-6 items-center text-plum underline"
          >
            {comment.document} {comment.revision}
          </Link>
          {comment.place && <span className="text-second">{comment.place}</span>}
          <span className="ml-auto font-semibold">{STATES[comment.state]}</span>
        </p>
        <p className={`text-read whitespace-pre-line ${comment.state === 'open' ? '' : 'text-second'}`}>
          {comment.text}
        </p>
        <p className="text-note text-second">
          {comment.by.name} ({comment.by.company}), <When at={comment.raised_at} />
          {comment.released_at && (
            <>
              {' '}
              · sent to its author outside, <When at={comment.released_at} />
            </>
          )}
        </p>
        <Response comment={comment} />
        <Closed comment={comment} />
        {comment.may.length > 0 && <CommentActForm comment={comment} reviewId={reviewId} />}
      </div>
    </li>
  )
}

const STATES: Record<string, string> = { open: 'open', closed: 'closed', carried: 'gone along' }

function Response({ comment }: { comment: Comment }) {
  if (!comment.response) return null
  const by = comment.responded_by
  return (
    <div className="mt-1 border-l-2 border-slate pl-2">
      <p className="whitespace-pre-line">{comment.response}</p>
      <p className="text-note text-second">
        {comment.response_from
          ? `${comment.response_from}, taken in by ${by?.name ?? ''}`
          : `${by?.name ?? ''} (${by?.company ?? ''})`}
        , <When at={comment.responded_at} />
      </p>
    </div>
  )
}

function Closed({ comment }: { comment: Comment }) {
  if (!comment.closed_by) return comment.close_note ? <p className="mt-1">{comment.close_note}</p> : null
  return (
    <p className="mt-1 border-l-2 border-spruce pl-2">
      Closed by {comment.closed_by.name}, <When at={comment.closed_at} />
      {comment.close_note && `: ${comment.close_note}`}
    </p>
  )
}

/** The sheet as a file, and a filled-in one back. */
function Files({ sheet }: { sheet: CommentSheet }) {
  if (sheet.comments.length === 0) return null
  const take = (form: string) => download(`/api/reviews/${sheet.review_id}/comments/taken?form=${form}`)
  const responds = sheet.comments.some((each) => each.may.includes('respond'))
  return (
    <div className="flex flex-col gap-2 border-t border-line pt-3">
      <div className="flex flex-wrap gap-2">
        <Button small onClick={() => take('pdf')}>
          Take the sheet (PDF)
        </Button>
        <Button small onClick={() => take('xlsx')}>
          Take the sheet (XLSX)
        </Button>
      </div>
      {responds && <ResponsesIn reviewId={sheet.review_id} />}
    </div>
  )
}
