import { Link } from '@tanstack/react-router'

import { useSeat } from '../../api/me'
import { ErrorNote, Loading } from '../../ui/Notes'
import { Section } from './Section'
import { useGrid, LEVELS } from './access/useAccess'
import { usePeople } from './people/usePeople'

/** The companies of the project: their people, and what they may. */
export function CompaniesSection() {
  const { me } = useSeat()
  const people = usePeople()
  const grid = useGrid('companies')
  const may = (id: string) => {
    const at = grid.data?.columns.findIndex((column) => column.id === id) ?? -1
    const own = grid.data?.own[at] ?? ''
    return (grid.data?.folders ?? [])
      .map((folder, row) => ({
        name: folder.name,
        own: own[row] === '1',
        level: Number(grid.data?.levels[at]?.[row]),
      }))
      .filter((each) => each.own)
      .map((each) => `${LEVELS[each.level]} in ${each.name}`)
      .join(', ')
  }
  return (
    <Section
      title="Companies"
      about="A company typed in while adding a person appears here by itself. Its code goes into numbers."
      acts={
        me.steward && (
          <Link to="/workspace" className="text-plum underline">
            Change or merge in the workspace
          </Link>
        )
      }
    >
      <ErrorNote error={people.error ?? grid.error} />
      {people.isPending && <Loading what="the companies" />}
      {people.data && (
        <div className="min-h-0 flex-1 overflow-auto">
          <table className="w-full table-fixed text-list">
            <thead className="text-left text-note text-second">
              <tr className="border-b border-second/40">
                <th className="w-[74px] px-5 py-1.5 font-semibold">Code</th>
                <th className="w-[210px] px-2 font-semibold">Company</th>
                <th className="w-[130px] px-2 font-semibold">Part</th>
                <th className="px-2 font-semibold">People</th>
                <th className="w-[250px] px-2 font-semibold">Access of its own</th>
              </tr>
            </thead>
            <tbody>
              {people.data.companies.map((company) => (
                <tr key={company.id} className="border-b border-line/60 align-top">
                  <td className="code px-5 py-1.5 font-bold">{company.code}</td>
                  <td className="px-2 py-1.5">{company.name}</td>
                  <td className="px-2 py-1.5">{company.part}</td>
                  <td className="px-2 py-1.5">
                    {people.data.members
                      .filter((each) => each.company_id === company.id && each.state !== 'removed')
                      .map((each) => each.who.name)
                      .join(', ') || <span className="text-second">nobody any more</span>}
                  </td>
                  <td className="px-2 py-1.5">
                    {may(company.id) || <span className="text-second">what its people’s roles bring</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  )
}
