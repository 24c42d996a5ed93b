import { useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { useState } from 'react'

import { api, unwrap } from '../../../api/client'
import { useSeat } from '../../../api/me'
import { boundsOf, type Selection } from '../../../domain/rectangle'
import { Button } from '../../../ui/Button'
import { Select } from '../../../ui/Field'
import { ErrorNote, Loading } from '../../../ui/Notes'
import { AccessGrid } from './AccessGrid'
import { ChangePanel } from '../ChangePanel'
import { FolderPanel } from './FolderPanel'
import { Section } from '../Section'
import {
  differences,
  LEVELS,
  useChangeAccess,
  useGrid,
  useSetGrants,
  type AccessGridData,
  type By,
  type Cell,
  type GrantSetting,
  type LevelChoice,
} from './useAccess'

const START: Selection = { anchor: { row: 0, column: 0 }, focus: { row: 0, column: 0 } }

/** The grid of access and the folder tree. */
export function AccessSection() {
  const { project } = useSeat()
  const [by, setBy] = useState<By>('people')
  const grid = useGrid(by)
  return (
    <Section
      title="Folders and access"
      about="Underlined is set here; the rest comes from above. Arrows move, Shift selects, 0 to 4 give a level, Delete what is above; Enter opens the folder."
      acts={
        <>
          <Select
            label="Across"
            hideLabel
            className="w-[130px]"
            value={by}
            onChange={(next) => setBy(next as By)}
            choices={[
              { code: 'people', words: 'People' },
              { code: 'roles', words: 'Roles' },
              { code: 'companies', words: 'Companies' },
            ]}
          />
          {project.leads && by === 'people' && grid.data && <SeeAs grid={grid.data} />}
        </>
      }
    >
      <ErrorNote error={grid.error} />
      {grid.isPending && <Loading what="the access" />}
      {grid.data && <Worksheet key={by} by={by} grid={grid.data} />}
    </Section>
  )
}

/** The whole of Nod through another's eyes. */
function SeeAs({ grid }: { grid: AccessGridData }) {
  const { project } = useSeat()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [error, setError] = useState<unknown>(null)

  async function look(person_id: string) {
    try {
      await unwrap(api.POST('/api/see-as', { body: { project_id: project.id, person_id } }))
      await navigate({ to: '/register' })
      await client.resetQueries()
    } catch (refused) {
      setError(refused)
    }
  }

  return (
    <>
      <ErrorNote error={error} />
      <Select
        hideLabel
        label="See as"
        className="w-[180px]"
        value=""
        onChange={(id) => void look(id)}
        choices={[
          { code: '', words: 'See as …' },
          ...grid.columns.map((each) => ({ code: each.id, words: each.name })),
        ]}
      />
    </>
  )
}

interface Told {
  words: string
  undo: GrantSetting[]
  version: number
}

function Worksheet({ by, grid }: { by: By; grid: AccessGridData }) {
  const [selection, setSelection] = useState(START)
  const [level, setLevel] = useState<LevelChoice | null>(null)
  const [below, setBelow] = useState(true)
  const [folderId, setFolderId] = useState<string | null>(null)
  const [told, setTold] = useState<Told | null>(null)
  /** The grid as it was when the level was chosen: what others change from then on is told before saving. */
  const [seen, setSeen] = useState<AccessGridData | null>(null)
  const save = useChangeAccess()
  const undo = useSetGrants()

  const folder = grid.folders.find((each) => each.id === folderId)
  const cells = cellsOf(grid, selection)
  const version = seen?.version ?? grid.version
  const others = seen && seen.version !== grid.version ? differences(seen, grid) : null

  function choose(next: LevelChoice) {
    setSeen(seen ?? grid)
    setFolderId(null)
    setLevel(next)
    setTold(null)
    save.reset()
  }

  function leave() {
    setSeen(null)
    setLevel(null)
    save.reset()
  }

  function commit(at: number) {
    if (level === null) return
    save.mutate(
      { cells, level, below, version: at },
      {
        onSuccess: (done) => {
          setTold({
            words: `${done.cells.toLocaleString('en-GB')} ${done.cells === 1 ? 'level' : 'levels'} changed.`,
            undo: done.undo,
            version: done.version,
          })
          leave()
        },
      },
    )
  }

  return (
    <div className="flex min-h-0 flex-1 max-md:flex-col">
      <div className="flex min-h-0 min-w-0 flex-1 flex-col">
        {told && (
          <div
            role="status"
            className="flex items-center gap-3 border-b border-line bg-spruce-tint px-4 py-1"
          >
            {told.words}
            {told.undo.length > 0 && (
              <Button
                small
                busy={undo.isPending}
                onClick={() =>
                  undo.mutate(
                    { version: told.version, grants: told.undo },
                    { onSuccess: () => setTold({ ...told, words: 'It is as it was.', undo: [] }) },
                  )
                }
              >
                Undo
              </Button>
            )}
            <ErrorNote error={undo.error} />
          </div>
        )}
        <AccessGrid
          grid={grid}
          selection={selection}
          onSelect={(next) => {
            setSelection(next)
            setFolderId(null)
          }}
          onLevel={choose}
          changed={changedCells(seen, grid)}
          onFolder={(row) => {
            leave()
            setFolderId(grid.folders[row]?.id ?? null)
          }}
        />
        <p role="status" className="truncate border-t border-line bg-surface px-4 py-1 text-list text-second">
          {wordsAt(grid, selection)}
        </p>
      </div>
      {folder ? (
        <FolderPanel
          key={folder.id}
          folder={folder}
          folders={grid.folders}
          onClose={() => setFolderId(null)}
        />
      ) : (
        <ChangePanel
          by={by}
          grid={grid}
          cells={cells}
          bounds={boundsOf(selection)}
          level={level}
          below={below}
          version={version}
          others={others}
          onLevel={choose}
          onBelow={setBelow}
          onSave={() => commit(version)}
          onSaveOver={() => {
            setSeen(grid)
            commit(grid.version)
          }}
          onLeave={leave}
          saving={save.isPending}
          error={save.error}
        />
      )}
    </div>
  )
}

function cellsOf(grid: AccessGridData, selection: Selection): Cell[] {
  const { top, bottom, left, right } = boundsOf(selection)
  const cells: Cell[] = []
  for (const column of grid.columns.slice(left, right + 1))
    if (!column.fixed)
      for (const folder of grid.folders.slice(top, bottom + 1))
        cells.push({ kind: column.kind as Cell['kind'], id: column.id, folder_id: folder.id })
  return cells
}

const UNCHANGED: ReadonlySet<string> = new Set()

function changedCells(old: AccessGridData | null, now: AccessGridData): ReadonlySet<string> {
  if (!old || old.version === now.version) return UNCHANGED
  const found = new Set<string>()
  if (old.columns.length === now.columns.length)
    now.levels.forEach((levels, column) => {
      for (let row = 0; row < levels.length; row++)
        if (old.levels[column]?.[row] !== levels[row]) found.add(`${column}/${row}`)
    })
  return found
}

function wordsAt(grid: AccessGridData, { focus }: Selection): string {
  const column = grid.columns[focus.column]
  const folder = grid.folders[focus.row]
  if (!column || !folder) return ''
  const level = LEVELS[Number(grid.levels[focus.column]?.[focus.row] ?? 0)]
  const source = grid.words[grid.sources[focus.column]?.[focus.row] ?? 0]
  return `${column.name} on ${folder.name}: ${level} (${source})`
}
