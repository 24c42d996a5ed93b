import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrapAs, type Schemas } from '../../../api/client'
import { download } from '../../../api/download'
import { bytesText } from '../../../domain/bytes'
import { Button } from '../../../ui/Button'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { StandingWord } from '../../../ui/RevisionStanding'
import { VerdictMark } from '../../../ui/Stamp'
import { When } from '../../../ui/Standing'
import { BringBackRevision } from './BringBackRevision'
import { SetStatus } from './SetStatus'
import type { DossierData } from './dossierData'
import { isLost } from '../../../api/fetched'

type Revision = DossierData['revisions'][number]
type Changes = Schemas['RevisionChanges']

/** Every revision with its file, and what it changed against the one before. */
export function DossierRevisions({ dossier }: { dossier: DossierData }) {
  return (
    <ol className="flex flex-col">
      {dossier.revisions.map((revision, place) => (
        <RevisionLine
          key={revision.id}
          revision={revision}
          dossier={dossier}
          first={place === dossier.revisions.length - 1}
        />
      ))}
    </ol>
  )
}

function RevisionLine({
  revision,
  dossier,
  first,
}: {
  revision: Revision
  dossier: DossierData
  first: boolean
}) {
  const [open, setOpen] = useState(false)
  const [back, setBack] = useState(false)
  const [stating, setStating] = useState(false)
  return (
    <li className="border-b border-line py-2.5 text-list last:border-b-0">
      <div className="grid grid-cols-[88px_1fr] gap-3">
        <Link
          to="/sheet/$revisionId"
          params={{ revisionId: revision.id }}
          className="self-start border border-line bg-white"
          aria-label={`Open ${revision.code}`}
        >
          <img
            src={`/api/sheets/${revision.id}/thumbnail`}
            alt=""
            className="h-[58px] w-full object-contain"
          />
        </Link>
        <div className="min-w-0">
          <p className="flex items-center gap-2">
            <span className="code font-bold">{revision.code}</span>
            <span className="code text-second">{revision.status}</span>
            <VerdictMark code={revision.verdict} />
            <StandingWord standing={revision.standing} />
            {revision.id === dossier.line.revision_id && <span className="text-second">latest</span>}
            {revision.as_history && <span className="text-second">filed as history</span>}
          </p>
          <WhereFrom revision={revision} />
          <p className="mt-1 flex flex-wrap gap-2">
            {!first && (
              <Button small aria-expanded={open} onClick={() => setOpen(!open)}>
                {open ? 'Hide what changed' : 'What changed'}
              </Button>
            )}
            <Button small onClick={() => download(`/api/revisions/${revision.id}/download`)}>
              {revision.renditions.length > 0 ? `Download ${revision.kind}` : 'Download'}
            </Button>
            {revision.renditions.map((each) => (
              <Button
                key={each.id}
                small
                title={`${each.file_name}, ${bytesText(each.size_bytes)}`}
                onClick={() => download(`/api/renditions/${each.id}/download`)}
              >
                Download {each.kind}
              </Button>
            ))}
            {revision.may_set.length > 0 && (
              <Button small onClick={() => setStating(true)}>
                Set its status
              </Button>
            )}
            {revision.id !== dossier.line.revision_id && dossier.may.includes('revise') && (
              <Button small onClick={() => setBack(true)}>
                Bring back as new
              </Button>
            )}
          </p>
        </div>
      </div>
      {open && <WhatChanged revisionId={revision.id} />}
      {stating && <SetStatus dossier={dossier} revision={revision} onClose={() => setStating(false)} />}
      {back && <BringBackRevision dossier={dossier} revision={revision} onClose={() => setBack(false)} />}
    </li>
  )
}

/** Who filed it and when, from whom it came, and the files it has. */
function WhereFrom({ revision }: { revision: Revision }) {
  const { came_from: company, came_person: person, came_by: by } = revision
  const cameOn = revision.arrived_at !== revision.filed_at
  return (
    <>
      <p>
        Filed <When at={revision.filed_at} time /> by {revision.filed_by.name}
      </p>
      <p>
        From {person ? `${person}, ${company}` : company}
        {by && `, ${by}`}
        {cameOn && (
          <>
            , <When at={revision.arrived_at} />
          </>
        )}
      </p>
      {revision.purpose && <p>For {revision.purpose}</p>}
      {revision.note && <p className="whitespace-pre-line">“{revision.note}”</p>}
      <FileLine file={revision} governs={revision.renditions.length > 0} />
      {revision.renditions.map((each) => (
        <FileLine key={each.id} file={each} governs={false} />
      ))}
    </>
  )
}

interface FileProps {
  file: Pick<Revision, 'kind' | 'file_name' | 'size_bytes' | 'sha256'>
  /** Of several files this is the one that counts. */
  governs: boolean
}

function FileLine({ file, governs }: FileProps) {
  return (
    <>
      <p className="truncate text-second" title={file.file_name}>
        {file.file_name}
      </p>
      <p className="text-second">
        {file.kind}
        {governs && ', governs'}, {bytesText(file.size_bytes)}, SHA-256{' '}
        <span className="code" title={file.sha256}>
          {file.sha256.slice(0, 12)}…
        </span>
      </p>
    </>
  )
}

const DRAWING: Record<string, string> = {
  same_file: 'The file is the same.',
  unknown: 'The drawings are being compared. Open this again in a moment.',
  not_drawings: 'These are no drawings that could be compared.',
  other: 'Nearly everything of the drawing differs.',
  same: 'The drawing is the same.',
}

/** Fields side by side, then the drawing at its changed places. */
function WhatChanged({ revisionId }: { revisionId: string }) {
  const changes = useQuery({
    queryKey: ['revision-changes', revisionId],
    queryFn: () =>
      unwrapAs<Changes>(
        api.GET('/api/revisions/{revision_id}/changes', { params: { path: { revision_id: revisionId } } }),
      ),
  })
  if (isLost(changes)) return <ErrorNote error={changes.error} again={() => void changes.refetch()} />
  if (!changes.data) return <Loading what="what changed" />
  const { against, fields, drawing, fault } = changes.data
  const places = changes.data.changes
  return (
    <section aria-label={`What changed against ${against}`} className="mt-2 border-l-4 border-line pl-3">
      <h3 className="font-semibold">
        Against <span className="code">{against}</span>
      </h3>
      {fields.length > 0 && (
        <table className="mt-1 w-full table-fixed">
          <thead className="text-left text-note text-second">
            <tr>
              <th className="w-[76px] font-semibold">Field</th>
              <th className="font-semibold">Before</th>
              <th className="font-semibold">Now</th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field) => (
              <tr key={field.name} className="align-top">
                <td className="text-second">{field.name}</td>
                <td className="pr-2 break-words">{field.before || 'nothing'}</td>
                <td className="break-words">{field.after || 'nothing'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-1">
        {drawing === 'changed'
          ? `The drawing changed at ${places.length} ${places.length === 1 ? 'place' : 'places'}; ${places.filter((each) => !each.clouded).length} without a revision cloud.`
          : drawing === 'fault'
            ? `The drawings could not be compared: ${fault}`
            : DRAWING[drawing]}
      </p>
      {places.length > 0 && (
        <>
          <p className="text-note text-second">
            <span className="text-[#B5502E]">Rust, hatched</span>: only in {against}.{' '}
            <span className="text-[#007C89]">Sea</span>: only in this one.
          </p>
          <ol className="mt-1 grid grid-cols-2 gap-2">
            {places.slice(0, 24).map((each, place) => (
              <li key={place} className="border border-line bg-white">
                <img
                  loading="lazy"
                  src={`/api/revisions/${revisionId}/changes/${place}`}
                  alt={`Changed place ${place + 1}`}
                  className="min-h-[80px] w-full object-contain"
                />
                <p className="px-1 text-note text-[#22303A]">
                  {place + 1}, page {each.page + 1}
                  {each.clouded ? ', in a cloud' : ', no cloud'}
                </p>
              </li>
            ))}
          </ol>
          {places.length > 24 && <p className="text-second">and {places.length - 24} more.</p>}
        </>
      )}
    </section>
  )
}
