import { useQuery } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'

import { api, unwrap } from '../../api/client'
import { useSeat } from '../../api/me'
import { TryAgain } from '../../ui/GivenUp'
import { When } from '../../ui/Standing'

/** For leads and controllers, and only while there is something: work that Nod could not do. */
export function GivenUpTray() {
  const { project } = useSeat()
  const work = useQuery({
    queryKey: ['given-up', project.id],
    queryFn: () => unwrap(api.GET('/api/given-up', { params: { query: { project_id: project.id } } })),
    enabled: project.runs,
  })
  if (!work.data?.length) return null
  return (
    <section aria-label="What Nod could not do" className="mb-5 border border-brick bg-surface">
      <h2 className="flex h-9 items-center border-b border-line px-4 text-read font-semibold text-brick">
        What Nod could not do <span className="ml-1.5 font-normal">{work.data.length}</span>
      </h2>
      <ul>
        {work.data.map((each) => (
          <li
            key={each.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line/60 px-4 py-1.5 text-list last:border-b-0"
          >
            <Link to={each.link} className="min-w-0 flex-1 basis-[220px] font-medium break-words underline">
              {each.about}
            </Link>
            <span className="text-second">
              {each.doing}, given up after {each.tries} tries, <When at={each.gave_up_at} time />
            </span>
            <TryAgain work={each} />
          </li>
        ))}
      </ul>
    </section>
  )
}
