import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { isLost } from '../../../api/fetched'
import { fetchAnew } from '../../../api/keys'
import { useSeat } from '../../../api/me'
import { counted } from '../../../domain/counted'
import { Button } from '../../../ui/Button'
import { Empty, ErrorNote, Loading } from '../../../ui/Notes'
import { SaveBar, Section } from '../Section'
import { useDraft, useSave } from '../useSetup'
import { LinePanel } from './LinePanel'
import { MatrixGrid } from './MatrixGrid'
import {
  A_LINE,
  useMatrix,
  useTried,
  withShare,
  type Holder,
  type Matrix,
  type MatrixLine,
  type Share,
} from './useDistribution'

/** The distribution matrix: who gets what, to act on or to know. */
export function DistributionSection() {
  const matrix = useMatrix()
  if (isLost(matrix)) return <ErrorNote error={matrix.error} again={() => void matrix.refetch()} />
  if (!matrix.data) return <Loading what="the distribution matrix" />
  return <Form matrix={matrix.data} />
}

/** Saving, and putting back what was there before the last saving. */
function useSaving(matrix: Matrix) {
  const { project } = useSeat()
  const client = useQueryClient()
  const [before, setBefore] = useState<readonly MatrixLine[] | null>(null)
  const put = (lines: readonly MatrixLine[], version: number) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/distribution', {
        params: { path: { project_id: project.id } },
        body: { version, lines: [...lines] },
      }),
    )
  const anew = () => fetchAnew(client, ['distribution', 'due', 'setup', 'trail'])
  const draft = useDraft('Distribution matrix', matrix.lines, matrix.version)
  const save = useSave(draft, async (lines, version) => {
    await put(lines, version)
    setBefore(matrix.lines)
    await anew()
  })
  const undo = useMutation({
    mutationFn: (lines: readonly MatrixLine[]) => put(lines, matrix.version),
    onSuccess: async () => {
      setBefore(null)
      await anew()
    },
  })
  return { draft, save, undo, before: draft.dirty ? null : before }
}

function Form({ matrix }: { matrix: Matrix }) {
  const { project } = useSeat()
  const saving = useSaving(matrix)
  const { draft } = saving
  const [at, setAt] = useState(0)
  return (
    <Section
      title="Distribution"
      about="Who gets what. A press on a cell, or A, K and Delete, say to act, to know, nothing; cells of a company and of its people’s roles unite. What is due is proposed to the controllers; nothing is sent by itself but by a line that says so."
      acts={
        project.leads && (
          <Button
            onClick={() => {
              draft.change([...draft.value, A_LINE])
              setAt(draft.value.length)
            }}
          >
            Add a line
          </Button>
        )
      }
    >
      <Saved saving={saving} />
      <div className="flex min-h-0 flex-1 max-md:flex-col">
        <Lines matrix={matrix} draft={draft} at={at} onAt={setAt} />
      </div>
      <SaveBar draft={draft} save={saving.save} may={project.leads} />
    </Section>
  )
}

function Saved({ saving: { before, undo } }: { saving: ReturnType<typeof useSaving> }) {
  if (!before) return null
  return (
    <div role="status" className="flex items-center gap-3 border-b border-line bg-spruce-tint px-4 py-1">
      The matrix is saved.
      <Button small busy={undo.isPending} onClick={() => undo.mutate(before)}>
        Undo
      </Button>
      <ErrorNote error={undo.error} />
    </div>
  )
}

interface LinesProps {
  matrix: Matrix
  draft: ReturnType<typeof useSaving>['draft']
  at: number
  onAt: (at: number) => void
}

function Lines({ matrix, draft, at, onAt }: LinesProps) {
  const may = useSeat().project.leads
  const lines = draft.value
  const line = lines[at]
  const change = (place: number, next: MatrixLine) =>
    draft.change(lines.map((each, other) => (other === place ? next : each)))
  const share = (place: number, holder: Holder, given: Share) => {
    const of = lines[place]
    onAt(place)
    if (of) change(place, withShare(of, holder, given))
  }
  return (
    <>
      {lines.length === 0 ? (
        <div className="flex-1">
          <Empty>Nobody gets anything by a matrix yet. Add a line for a class of documents.</Empty>
        </div>
      ) : (
        <MatrixGrid matrix={matrix} lines={lines} at={at} onAt={onAt} onShare={may ? share : undefined} />
      )}
      <aside
        aria-label="Line of the matrix"
        className="w-[290px] shrink-0 overflow-auto border-l border-line bg-surface max-md:max-h-[50%] max-md:w-full max-md:border-t max-md:border-l-0"
      >
        {line && (
          <LinePanel
            key={at}
            keep={draft.kept}
            matrix={matrix}
            line={line}
            may={may}
            onChange={(next) => change(at, next)}
            onTake={() => {
              draft.change(lines.filter((_, place) => place !== at))
              onAt(Math.max(0, at - 1))
            }}
          />
        )}
        <Consequences lines={lines} dirty={draft.dirty} />
      </aside>
    </>
  )
}

/** What it would make due to whom, before it is saved. */
function Consequences({ lines, dirty }: { lines: readonly MatrixLine[]; dirty: boolean }) {
  const tried = useTried(lines, dirty)
  if (!dirty) return null
  return (
    <section aria-label="What changes" className="border-t border-line px-4 py-3 text-list">
      <h2 className="mb-1 font-semibold">When it is saved</h2>
      <ErrorNote error={tried.error} />
      {tried.data && tried.data.changes.length === 0 && !tried.error && (
        <p className="text-second">Nothing else is due to anybody today.</p>
      )}
      <ul>
        {!tried.error &&
          tried.data?.changes.map((each) => (
            <li key={each.company} title={each.name}>
              <span className="code">{each.company}</span>: {counted(each.after, 'document')} due
              {each.before > 0 && <span className="text-second"> (now {each.before})</span>}
            </li>
          ))}
      </ul>
    </section>
  )
}
