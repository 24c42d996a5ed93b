import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap } from '../../api/client'
import { useFolders } from '../../api/folders'
import { useSeat } from '../../api/me'
import { Select } from '../../ui/Field'
import { Loading } from '../../ui/Notes'
import { ShareDialog } from '../../ui/ShareDialog'
import { folderOf, type RegisterSearch } from './registerSearch'

/** Folders as they lie, then kept views; each with the kind and id that a link leads to. */
function useChoices() {
  const { project } = useSeat()
  const folders = useFolders()
  const views = useQuery({
    queryKey: ['views', project.id, 'register'],
    queryFn: () =>
      unwrap(
        api.GET('/api/register/views', { params: { query: { project_id: project.id, of: 'register' } } }),
      ),
  })
  if (!folders.data || !views.data) return null
  return [
    ...folders.data.map((each) => ({
      code: `shared_folder ${each.id}`,
      words: `${'\u2003'.repeat(each.depth)}${each.name}`,
      name: `the folder ${each.name}`,
    })),
    ...views.data.map((each) => ({
      code: `shared_view ${each.id}`,
      words: `View: ${each.name}`,
      name: `the view ${each.name}`,
    })),
  ]
}

/** A link to a folder, or to a view of the register that was kept. */
export function ShareList({ search, onClose }: { search: RegisterSearch; onClose: () => void }) {
  const choices = useChoices()
  const usual = folderOf(search)
  const [chosen, setChosen] = useState(usual && `shared_folder ${usual}`)
  if (!choices) return <Loading what="folders and views" />
  const shown = choices.find((each) => each.code === chosen) ?? choices[0]
  if (!shown) return null
  const [kind = '', target = ''] = shown.code.split(' ')
  return (
    <ShareDialog
      kind={kind}
      target={target}
      words={shown.name}
      onClose={onClose}
      head={<Select label="Link to" value={shown.code} onChange={setChosen} choices={choices} />}
    />
  )
}
