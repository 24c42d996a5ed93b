import { Link } from '@tanstack/react-router'

/** A document's number at one revision, leading to that sheet. */
export function SheetLink({
  revisionId,
  number,
  revision,
}: {
  revisionId: string
  number: string
  revision: string
}) {
  return (
    <>
      <Link to="/sheet/$revisionId" params={{ revisionId }} className="code text-plum underline">
        {number}
      </Link>
      <span className="code font-bold">{revision}</span>
    </>
  )
}
