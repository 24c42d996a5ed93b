import { api, unwrap } from '../../api/client'
import { useFolders } from '../../api/folders'
import { useSeat } from '../../api/me'
import { Select } from '../../ui/Field'
import { SaveBar, Section, WithSetup } from './Section'
import { useDraft, useSave, type Setup } from './useSetup'

/** In which folder files are filed that are attached to something. */
export function AttachedSection() {
  return <WithSetup what="the folders of attached files" form={Form} />
}

const foldersOf = (setup: Setup) =>
  Object.fromEntries(setup.attachment_folders.map((each) => [each.kind, each.folder_id]))

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const folders = useFolders()
  const draft = useDraft('Attached files', foldersOf(setup), setup.version)
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/attachment-folders', {
        params: { path: { project_id: project.id } },
        body: {
          version,
          folders: Object.fromEntries(Object.entries(value).filter(([, folder]) => folder)),
        },
      }),
    ),
  )
  const tree = (folders.data ?? []).map((each) => ({
    code: each.id,
    words: `${'\u2003'.repeat(each.depth)}${each.name}`,
  }))
  return (
    <Section
      title="Attached files"
      about="Files that come with what is said are filed by themselves. Whoever sees the thing that they are attached to sees them, and nobody else. Those that are there stay where they are."
    >
      <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
        <table className="text-list">
          <thead className="text-left text-note text-second">
            <tr>
              <th className="w-[200px] py-1.5 font-semibold">Attached to</th>
              <th className="w-[340px] font-semibold">Filed in</th>
            </tr>
          </thead>
          <tbody>
            {setup.attachment_folders.map(({ kind, plural }) => (
              <tr key={kind} className="border-t border-line/60">
                <th scope="row" className="text-left font-medium first-letter:uppercase">
                  {plural}
                </th>
                <td className="py-1">
                  <Select
                    hideLabel
                    label={`Folder of files attached to ${plural}`}
                    value={draft.value[kind] ?? ''}
                    disabled={!project.leads}
                    onChange={(folder) => draft.change({ ...draft.value, [kind]: folder })}
                    choices={[
                      {
                        code: '',
                        words: kind === 'document' ? 'the folder of the document' : 'the topmost folder',
                      },
                      ...tree,
                    ]}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
