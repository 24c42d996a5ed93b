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

const valueOf = (setup: Setup) => ({
  folders: Object.fromEntries(setup.attachment_folders.map((each) => [each.kind, each.folder_id])),
  mib: String(setup.attach_mb),
})

const SIZES = [
  { code: '0', words: 'nothing: files are fetched by the link' },
  ...[1, 2, 5, 10, 15, 20, 25].map((mib) => ({ code: String(mib), words: `up to ${mib} MB together` })),
]

function Form({ setup }: { setup: Setup }) {
  const { project } = useSeat()
  const folders = useFolders()
  const draft = useDraft('Attached files', valueOf(setup), setup.version)
  const save = useSave(draft, (value, version) =>
    unwrap(
      api.PUT('/api/projects/{project_id}/attachment-folders', {
        params: { path: { project_id: project.id } },
        body: {
          version,
          folders: Object.fromEntries(Object.entries(value.folders).filter(([, folder]) => folder)),
          attach_mb: Number(value.mib),
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
                    value={draft.value.folders[kind] ?? ''}
                    disabled={!project.leads}
                    onChange={(folder) =>
                      draft.change({ ...draft.value, folders: { ...draft.value.folders, [kind]: folder } })
                    }
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
        <div className="mt-5 max-w-[340px]">
          <Select
            label="Attached to the mail of a transmittal"
            value={draft.value.mib}
            disabled={!project.leads}
            onChange={(mib) => draft.change({ ...draft.value, mib })}
            choices={SIZES}
          />
          <p className="mt-1 text-note text-second">
            What is larger, may only be looked at or closes on a day is behind the link alone.
          </p>
        </div>
      </div>
      <SaveBar draft={draft} save={save} may={project.leads} />
    </Section>
  )
}
