import { Link } from '@tanstack/react-router'

import { useAttached } from './useAttached'

/** Where the list is narrowed to folders: the attached files that are filed there too. */
export function AttachedHere({ filters }: { filters: readonly string[][] }) {
  const asked = filters.find(([column, how]) => column === 'folder' && how === 'is')
  const folders = asked?.slice(2).join(',') ?? ''
  const found = useAttached('', folders, folders !== '')
  const count = folders ? (found.data?.attachments.length ?? 0) : 0
  if (!count) return null
  return (
    <Link to="/register/attached" search={{ folders }} className="text-list text-plum underline">
      {found.data?.more ? `More than ${count}` : count} attached {count === 1 ? 'file' : 'files'} here
    </Link>
  )
}
