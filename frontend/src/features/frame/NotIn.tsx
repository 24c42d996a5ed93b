import type { Me } from '../../api/me'
import { addressIn } from '../../domain/projectPath'

/** The address names a project that is not there for this person. */
export function NotIn({ me, number }: { me: Me; number: string }) {
  return (
    <main>
      <NoSuchProject me={me} number={number} />
    </main>
  )
}

export function NoSuchProject({ me, number }: { me: Me; number: string }) {
  return (
    <div className="p-8">
      <h1 className="text-title font-semibold">There is no project {number} for you</h1>
      <p className="mt-1 mb-3 text-second">
        It may have another number, or you are not in it, or not any more. A project lead can add you.
      </p>
      <ul>
        {me.projects.map((each) => (
          <li key={each.id} className="mb-1">
            <a href={addressIn(each.number, '/')} className="text-plum underline">
              <span className="code font-bold">{each.number}</span> {each.name}
            </a>
          </li>
        ))}
      </ul>
    </div>
  )
}
