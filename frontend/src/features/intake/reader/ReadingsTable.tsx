import { counted } from '../../../domain/counted'
import { wordsOf, type ReadField, type Tried, type Zone } from './useReader'

interface Props {
  tried: Tried | undefined
  zones: readonly Zone[]
  fields: readonly ReadField[]
  at: { arrivalId: string; page: number }
  onShow: (arrivalId: string, page: number) => void
}

const SHOWN = 400

/** What the zones read on every page of the batch, what failed on top; a click shows the page. */
export function ReadingsTable({ tried, zones, fields: known, at, onShow }: Props) {
  if (!tried) return <p className="px-4 py-3 text-second">Reading the batch …</p>
  const fields = [...new Set(zones.map((zone) => zone.field))].filter((field) => field !== 'not compared')
  const failing = tried.pages.filter((each) => each.failed > 0).length
  return (
    <section aria-label="What the zones read on all pages">
      <p role="status" className="px-4 py-2 text-list">
        <span className={`font-semibold ${failing ? 'text-ochre' : 'text-spruce'}`}>
          {tried.read_well} of {counted(tried.pages.length, 'page')} read whole
        </span>
        <span className="text-second">
          {failing > 0 && `, ${failing} with something open, on top`}
          {tried.without_text > 0 && `; ${tried.without_text} have no text: they are scans`}
          {tried.other_sizes > 0 && `; ${tried.other_sizes} of another size are left alone`}
        </span>
      </p>
      <div data-wide className="relative overflow-x-auto">
        <table className="w-full border-collapse text-note">
          <thead className="text-left text-second">
            <tr className="border-b border-second/40">
              <th className="py-1 pr-2 pl-4 font-semibold">Page</th>
              {fields.map((field) => (
                <th key={field} className="px-1.5 font-semibold whitespace-nowrap">
                  {wordsOf(known, field)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {tried.pages.slice(0, SHOWN).map((each) => {
              const isHere = each.arrival_id === at.arrivalId && each.page === at.page
              return (
                <tr
                  key={`${each.arrival_id}/${each.page}`}
                  className={`border-b border-line/60 align-top ${isHere ? 'bg-plum-tint' : ''}`}
                >
                  <td className="py-1 pr-2 pl-4">
                    <button
                      type="button"
                      className="max-w-[130px] truncate text-left text-plum underline"
                      title={each.file_name}
                      aria-current={isHere}
                      onClick={() => onShow(each.arrival_id, each.page)}
                    >
                      {each.page > 0 ? `p ${each.page + 1}, ` : ''}
                      {each.file_name}
                    </button>
                  </td>
                  {fields.map((field) => {
                    const read = each.fields[field]
                    return (
                      <td
                        key={field}
                        className="max-w-[260px] truncate px-1.5 py-1 whitespace-nowrap"
                        title={read?.why || read?.value}
                      >
                        {read?.value ? (
                          <span className={`code ${read.sure ? '' : 'text-ochre'}`}>{read.value}</span>
                        ) : (
                          <span className="font-semibold text-brick">open</span>
                        )}
                      </td>
                    )
                  })}
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {tried.pages.length > SHOWN && (
        <p className="px-4 py-2 text-second">
          {tried.pages.length - SHOWN} more pages read as well; those that fail are all above.
        </p>
      )}
    </section>
  )
}
