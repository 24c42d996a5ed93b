import { Link, useParams } from '@tanstack/react-router'
import type { ComponentType } from 'react'

import { useSeat } from '../../api/me'
import { Empty } from '../../ui/Notes'
import { AccessSection } from './access/AccessSection'
import { CodesSection } from './CodesSection'
import { AnswerTimesSection } from './AnswerTimesSection'
import { AttachedSection } from './AttachedSection'
import { CompaniesSection } from './CompaniesSection'
import { DaysSection } from './DaysSection'
import { DistributionSection } from './distribution/DistributionSection'
import { FieldsSection } from './FieldsSection'
import { MarksSection } from './MarksSection'
import { NativesSection } from './NativesSection'
import { LetterKindsSection } from './LetterKindsSection'
import { PurposesSection } from './PurposesSection'
import { NoticesSection } from './NoticesSection'
import { NumbersSection } from './NumbersSection'
import { PeopleSection } from './people/PeopleSection'
import { ProfileSection } from './ProfileSection'
import { RolesSection } from './RolesSection'
import { StarterSection } from './StarterSection'
import { SubmittalsSection } from './SubmittalsSection'

interface Part {
  key: string
  words: string
  part: ComponentType
  /** Also for those who keep a folder and run nothing. */
  forKeepers?: boolean
}

const PARTS: readonly Part[] = [
  { key: 'people', words: 'People', part: PeopleSection },
  { key: 'companies', words: 'Companies', part: CompaniesSection },
  { key: 'roles', words: 'Roles and tools', part: RolesSection },
  { key: 'access', words: 'Folders and access', part: AccessSection, forKeepers: true },
  { key: 'project', words: 'Project', part: ProfileSection },
  { key: 'numbers', words: 'Numbers', part: NumbersSection },
  { key: 'codes', words: 'Revisions, statuses, verdicts', part: CodesSection },
  { key: 'purposes', words: 'Purposes of issue', part: PurposesSection },
  { key: 'submittals', words: 'Submittals', part: SubmittalsSection },
  { key: 'letters', words: 'Letters', part: LetterKindsSection },
  { key: 'natives', words: 'Natives', part: NativesSection },
  { key: 'answers', words: 'Contract’s times', part: AnswerTimesSection },
  { key: 'distribution', words: 'Distribution', part: DistributionSection },
  { key: 'days', words: 'Working days', part: DaysSection },
  { key: 'fields', words: 'Fields', part: FieldsSection },
  { key: 'marks', words: 'Colours of marks', part: MarksSection },
  { key: 'attached', words: 'Attached files', part: AttachedSection },
  { key: 'notices', words: 'Notices', part: NoticesSection },
  { key: 'starter', words: 'Starter', part: StarterSection },
]

/** Setting the project up, a part at a time, in the order in which it is usually done. */
export function SetupPage() {
  const { section } = useParams({ strict: false })
  const { project } = useSeat()
  const parts = PARTS.filter((each) => project.runs || each.forKeepers)
  const shown = parts.find((each) => each.key === section) ?? parts[0]
  if (!shown || (project.level !== 'keep' && !project.runs))
    return <Empty>The project is set up by its leads.</Empty>
  return (
    <div className="flex h-full max-md:flex-col">
      <nav
        aria-label="Parts of the set-up"
        className="w-[200px] shrink-0 overflow-auto border-r border-line py-2 max-md:flex max-md:w-full max-md:flex-wrap max-md:border-r-0 max-md:border-b"
      >
        {parts.map((each) => (
          <Link
            key={each.key}
            to="/setup/$section"
            params={{ section: each.key }}
            aria-current={each === shown ? 'page' : undefined}
            className={`block border-l-[3px] px-3 py-1.5 hover:bg-surface max-md:px-2 max-md:py-1 max-md:text-list ${each === shown ? 'border-plum bg-plum-tint font-semibold' : 'border-transparent'}`}
          >
            {each.words}
          </Link>
        ))}
      </nav>
      <shown.part />
    </div>
  )
}
