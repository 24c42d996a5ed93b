import type { Schemas } from '../api/client'

/** A part of what a file says: facts, a table, or text. */
export function FilePart({ part, cells }: { part: Schemas['PartShown']; cells: boolean }) {
  return (
    <section>
      {part.title && <h2 className="mb-1.5 text-read font-semibold">{part.title}</h2>}
      {part.facts ? (
        <Facts rows={part.rows} />
      ) : (
        part.rows.length > 0 && <Rows rows={part.rows} cells={cells} />
      )}
      {part.lines.length > 0 && (
        <div className="max-w-[85ch] text-body leading-[1.5] wrap-break-word whitespace-pre-wrap">
          {part.lines.join('\n')}
        </div>
      )}
      {part.more && (
        <p className="mt-2 text-second">There is more than is shown here. Download the file for all of it.</p>
      )}
    </section>
  )
}

function Facts({ rows }: { rows: string[][] }) {
  return (
    <dl className="grid max-w-[85ch] grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-list">
      {rows.map(([name, says], place) => (
        <div key={place} className="contents">
          <dt className="text-second">{name}</dt>
          <dd className="wrap-anywhere">{says}</dd>
        </div>
      ))}
    </dl>
  )
}

/** A table as its own program shows it; `cells` have letters and numbers in a spreadsheet. */
function Rows({ rows, cells }: { rows: string[][]; cells: boolean }) {
  const columns = Math.max(...rows.map((row) => row.length))
  return (
    <table className="border-collapse bg-surface text-list">
      {cells && (
        <thead>
          <tr>
            <td className="border border-line bg-paper" />
            {Array.from({ length: columns }, (_, place) => (
              <th
                key={place}
                scope="col"
                className="border border-line bg-paper px-2 font-normal text-second"
              >
                {columnName(place)}
              </th>
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {rows.map((row, place) => (
          <tr key={place}>
            {cells && (
              <th scope="row" className="border border-line bg-paper px-2 text-right font-normal text-second">
                {place + 1}
              </th>
            )}
            {Array.from({ length: columns }, (_, column) => (
              <td key={column} className="max-w-[320px] border border-line px-2 py-0.5 align-top">
                {row[column] ?? ''}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** A, B … Z, AA: as spreadsheets name their columns. */
export function columnName(place: number): string {
  return (place >= 26 ? columnName(Math.floor(place / 26) - 1) : '') + String.fromCharCode(65 + (place % 26))
}
