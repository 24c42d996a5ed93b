import { useMutation } from '@tanstack/react-query'

import type { Schemas } from '../../api/client'
import { putFile } from '../../api/putFile'
import { counted } from '../../domain/counted'
import { ErrorNote } from '../../ui/Notes'
import { useSettled } from './useReviews'

/** A sheet that an author outside has filled in: all its responses, or none and what is wrong. */
export function ResponsesIn({ reviewId }: { reviewId: string }) {
  const settled = useSettled()
  const send = useMutation({
    mutationFn: (file: File) =>
      putFile<Schemas['ResponsesTaken']>(`/api/reviews/${reviewId}/comments/responses`, file),
    onSettled: settled,
  })
  const told = send.data
  return (
    <div>
      <label className="flex flex-wrap items-center gap-2 text-list">
        A sheet (XLSX) that came back with responses:
        <input
          type="file"
          accept=".xlsx,.csv"
          className="text-list file:mr-3 file:h-7 file:rounded-[3px] file:border file:border-line file:bg-surface file:px-2"
          onChange={(event) => {
            const file = event.target.files?.[0]
            event.target.value = ''
            if (file) send.mutate(file)
          }}
        />
      </label>
      {send.isPending && <p role="status">Reading the sheet …</p>}
      <ErrorNote error={send.error} />
      {told && told.troubles.length === 0 && (
        <p role="status" className="text-spruce">
          {counted(told.kept, 'response')} taken in
          {told.same > 0 && `, ${told.same} without a new one`}.
        </p>
      )}
      {told && told.troubles.length > 0 && (
        <div role="alert" className="text-brick">
          <p className="font-semibold">Nothing was taken in. Mend these cells, and choose the sheet again:</p>
          <ul>
            {told.troubles.map((each) => (
              <li key={each.cell}>
                <span className="code">{each.cell}</span> {each.words}
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  )
}
