import type { Bounds } from '../../domain/rectangle'
import { Button } from '../../ui/Button'
import { ErrorNote } from '../../ui/Notes'
import {
  LEVELS,
  usePreview,
  type AccessGridData,
  type By,
  type Cell,
  type LevelChoice,
} from './access/useAccess'
import { isLost } from '../../api/fetched'

const MEANS = {
  none: 'does not see that it exists',
  read: 'sees and downloads',
  mark: 'and marks up, comments, raises points',
  file: 'and adds documents and revisions',
  keep: 'and moves, renames, withdraws, sets access',
}

interface Props {
  by: By
  grid: AccessGridData
  cells: Cell[]
  bounds: Bounds
  level: LevelChoice | null
  below: boolean
  version: number
  /** What others changed since the level was chosen; null for nothing. */
  others: string[] | null
  onLevel: (level: LevelChoice) => void
  onBelow: (below: boolean) => void
  onSave: () => void
  onSaveOver: () => void
  onLeave: () => void
  saving: boolean
  error: unknown
}

/** What is selected, the level it is to have, and what that changes for whom, before anything is saved. */
export function ChangePanel(props: Props) {
  const { grid, cells, bounds, level, below, others } = props
  const columns = grid.columns.slice(bounds.left, bounds.right + 1)
  const folders = grid.folders.slice(bounds.top, bounds.bottom + 1)
  const named = (names: string[], many: string) =>
    names.length > 3 ? `${names.length} ${many}` : names.join(', ')
  const fixed = columns.filter((column) => column.fixed).length
  return (
    <aside
      aria-label="Change of access"
      className="flex w-[300px] shrink-0 flex-col border-l border-line bg-surface max-md:max-h-[50%] max-md:w-full max-md:overflow-auto max-md:border-t max-md:border-l-0"
    >
      <div className="border-b border-line px-4 py-3">
        <h2 className="font-semibold">
          {named(
            columns.map((each) => each.name),
            props.by,
          )}
        </h2>
        <p className="text-list text-second">
          on{' '}
          {named(
            folders.map((each) => each.name),
            'folders',
          )}
        </p>
        {fixed > 0 && (
          <p className="mt-1 text-list text-second">
            {fixed === columns.length
              ? 'Leads and document controllers keep everything.'
              : `${fixed} of them keep everything, as leads or document controllers.`}
          </p>
        )}
      </div>
      {cells.length > 0 && (
        <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto px-4 py-3">
          <div role="group" aria-label="Level" className="flex flex-col">
            {LEVELS.map((each, place) => (
              <LevelButton
                key={each}
                sign={String(place)}
                words={each}
                help={MEANS[each]}
                chosen={level === each}
                onClick={() => props.onLevel(each)}
              />
            ))}
            <LevelButton
              sign="Del"
              words="as above"
              help="nothing set here: what is above comes through"
              chosen={level === ''}
              onClick={() => props.onLevel('')}
            />
          </div>
          <fieldset className="flex flex-col gap-1 text-list">
            <legend className="sr-only">How far it goes</legend>
            <label className="flex min-h-6 items-center gap-2">
              <input
                type="radio"
                name="below"
                className="accent-plum"
                checked={below}
                onChange={() => props.onBelow(true)}
              />
              and everything below
            </label>
            <label className="flex min-h-6 items-center gap-2">
              <input
                type="radio"
                name="below"
                className="accent-plum"
                checked={!below}
                onChange={() => props.onBelow(false)}
              />
              this folder alone
            </label>
          </fieldset>
          {level !== null && <Consequences {...props} level={level} />}
          {others && (
            <div
              role="alert"
              className="border-l-4 border-ochre bg-ochre-tint px-3 py-2 text-list text-ochre"
            >
              <p className="font-semibold">Somebody changed access while you were choosing.</p>
              <ul>
                {others.slice(0, 6).map((words) => (
                  <li key={words}>{words}</li>
                ))}
                {others.length > 6 && <li>and {others.length - 6} more</li>}
              </ul>
              <p>Your selection is kept.</p>
              <Button small className="mt-1.5" onClick={props.onSaveOver}>
                Save mine on top
              </Button>
            </div>
          )}
          {!others && <ErrorNote error={props.error} />}
        </div>
      )}
    </aside>
  )
}

interface LevelProps {
  sign: string
  words: string
  help: string
  chosen: boolean
  onClick: () => void
}

function LevelButton({ sign, words, help, chosen, onClick }: LevelProps) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onClick}
      className={`grid grid-cols-[30px_62px_1fr] items-baseline gap-1 border-l-[3px] px-2 py-1 text-left text-list ${chosen ? 'border-plum bg-plum-tint' : 'border-transparent hover:bg-paper'}`}
    >
      <kbd className="code text-fine text-second">{sign}</kbd>
      <span className="font-semibold">{words}</span>
      <span className="text-note text-second">{help}</span>
    </button>
  )
}

function Consequences({
  cells,
  level,
  below,
  version,
  others,
  onSave,
  onLeave,
  saving,
}: Props & { level: LevelChoice }) {
  const preview = usePreview({ cells, level, below }, version)
  if (isLost(preview)) return <ErrorNote error={preview.error} />
  const { data } = preview
  if (!data) return <p className="text-second">Working out what changes …</p>
  return (
    <section aria-label="What changes" className="border-t border-line pt-2">
      <p role="status" className="font-semibold">
        {data.cells === 0
          ? 'Nothing changes for anybody.'
          : `${data.cells.toLocaleString('en-GB')} ${data.cells === 1 ? 'level changes' : 'levels change'} for ${data.people} ${data.people === 1 ? 'person' : 'people'}.`}
      </p>
      <ul className="mt-1 max-h-[180px] overflow-auto text-list">
        {data.lines.map((line) => (
          <li key={`${line.person}/${line.folder}`} className="py-0.5">
            {line.person}, {line.folder}: <del className="text-brick">{line.before}</del> {line.after}
          </li>
        ))}
        {data.lines.length < data.cells && (
          <li className="text-second">and {(data.cells - data.lines.length).toLocaleString('en-GB')} more</li>
        )}
      </ul>
      <div className="mt-2 flex gap-2">
        <Button
          look="act"
          busy={saving}
          why={others !== null && 'Others changed access meanwhile: look at theirs first.'}
          onClick={onSave}
        >
          {saving ? 'Saving …' : 'Save'}
        </Button>
        <Button onClick={onLeave}>Leave it</Button>
      </div>
    </section>
  )
}
