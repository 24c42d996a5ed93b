import { Link } from '@tanstack/react-router'

import { counted } from '../../domain/counted'
import { Checkbox } from '../../ui/Checkbox'
import { CellInput, Choice } from '../../ui/Input'
import { useSubmittalChoices } from './useSubmittals'
import type { Item, Spec, Taking } from './useSpecification'

interface Props {
  spec: Spec
  taking: Taking
  /** The key of the item whose page is shown. */
  looked: string
  onLook: (key: string) => void
}

interface Part {
  section: string
  title: string
  items: Item[]
}

function partsOf(items: readonly Item[]): Part[] {
  const parts: Part[] = []
  for (const item of items) {
    const last = parts[parts.length - 1]
    if (last && last.section === item.section && last.title === item.section_title) last.items.push(item)
    else parts.push({ section: item.section, title: item.section_title, items: [item] })
  }
  return parts
}

/** What it asks for, by section; what went at the end. */
export function SpecificationItems({ spec, taking, looked, onLook }: Props) {
  const all = taking.open
  return (
    <div className="px-4 py-2 text-list">
      {all.length > 0 && (
        <Checkbox
          label={`All ${counted(all.length, 'item')} that ${all.length === 1 ? 'is' : 'are'} not in the log as they stand here`}
          checked={taking.chosen.length === all.length}
          onChange={(on) => taking.mark(all, on)}
        />
      )}
      {partsOf(spec.items).map((part) => (
        <section key={part.items[0]?.key} aria-label={`${part.section} ${part.title}`} className="mt-2">
          <PartHead part={part} taking={taking} />
          <ul>
            {part.items.map((item) => (
              <ItemRow
                key={item.key}
                item={item}
                taking={taking}
                looked={item.key === looked}
                onLook={() => onLook(item.key)}
              />
            ))}
          </ul>
        </section>
      ))}
      <Gone gone={spec.gone} />
    </div>
  )
}

function PartHead({ part, taking }: { part: Part; taking: Taking }) {
  const open = part.items.filter((each) => each.standing !== 'there')
  const head = `${part.section} ${part.title}`.trim() || 'Without a section'
  if (!open.length) return <h2 className="border-b border-line py-1 text-body font-semibold">{head}</h2>
  return (
    <h2 className="border-b border-line py-1 text-body font-semibold">
      <Checkbox
        label={head}
        checked={open.every((each) => taking.chosen.includes(each))}
        onChange={(on) => taking.mark(open, on)}
      />
    </h2>
  )
}

interface RowProps {
  item: Item
  taking: Taking
  looked: boolean
  onLook: () => void
}

function ItemRow({ item, taking, looked, onLook }: RowProps) {
  return (
    <li
      className={`flex flex-wrap items-center gap-x-2 border-b border-l-4 border-b-line/60 py-1 pl-1 ${looked ? 'border-l-plum bg-surface' : 'border-l-transparent'}`}
      onFocus={onLook}
    >
      <span className="w-5 shrink-0">
        {item.standing !== 'there' && (
          <input
            type="checkbox"
            aria-label={`Take ${item.paragraph} ${item.title}`}
            className="size-3.5 accent-plum"
            checked={taking.chosen.includes(item)}
            onChange={(event) => taking.mark([item], event.target.checked)}
          />
        )}
      </span>
      <button
        type="button"
        onClick={onLook}
        title={item.text}
        className="code w-[92px] shrink-0 truncate text-left text-plum underline"
      >
        {item.paragraph || `page ${item.page + 1}`}
      </button>
      {item.standing === 'new' ? <Fields item={item} taking={taking} /> : <Standing item={item} />}
    </li>
  )
}

/** What can be changed before it is taken. */
function Fields({ item, taking }: { item: Item; taking: Taking }) {
  const choices = useSubmittalChoices()
  const { title, kind } = taking.as(item)
  return (
    <>
      <Choice
        small
        aria-label={`Kind of ${item.paragraph}`}
        className={`w-[150px] shrink-0 ${kind ? '' : 'border-ochre'}`}
        value={kind}
        onChange={(event) => taking.change(item, { kind: event.target.value })}
      >
        <option value="">which kind?</option>
        {choices.data?.kinds.map((each) => (
          <option key={each.code} value={each.code}>
            {each.for_information ? `${each.words}, for information` : each.words}
          </option>
        ))}
      </Choice>
      <CellInput
        keep={taking.form}
        aria-label={`Title of ${item.paragraph}`}
        title={item.text}
        className="min-w-[220px] flex-1"
        maxLength={200}
        value={title}
        onChange={(event) => taking.change(item, { title: event.target.value })}
      />
    </>
  )
}

function Standing({ item }: { item: Item }) {
  return (
    <>
      <span className="min-w-0 flex-1 truncate" title={item.text}>
        {item.title}
      </span>
      <span className={item.standing === 'moved' ? 'text-ochre' : 'text-second'}>
        {item.standing === 'moved' ? `was at ${item.was}, ` : 'in the log, '}
        <Link
          to="/submittals/$submittalId"
          params={{ submittalId: item.submittal_id }}
          className="code text-plum underline"
        >
          {item.number}
        </Link>
      </span>
    </>
  )
}

function Gone({ gone }: { gone: Spec['gone'] }) {
  if (!gone.length) return null
  return (
    <section aria-label="No longer asked for" className="mt-4">
      <h2 className="border-b border-line py-1 text-body font-semibold">No longer asked for</h2>
      <p className="py-1 text-second">
        These were taken from this document, and this revision does not ask for them. They stay in the log
        until somebody voids them.
      </p>
      <ul>
        {gone.map((each) => (
          <li key={each.submittal_id} className="flex gap-3 border-b border-line/60 py-1">
            <Link
              to="/submittals/$submittalId"
              params={{ submittalId: each.submittal_id }}
              className="code text-plum underline"
            >
              {each.number}
            </Link>
            <span className="min-w-0 flex-1 truncate">{each.title}</span>
            <span className="code">{`${each.section} ${each.paragraph}`}</span>
            <span className="text-second">{each.state}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}
