import { TableKit } from '@tiptap/extension-table'
import { EditorContent, useEditor, useEditorState, type ChainedCommands, type Editor } from '@tiptap/react'
import StarterKit from '@tiptap/starter-kit'
import {
  Bold,
  Italic,
  Link2,
  List,
  ListOrdered,
  Table2,
  TextQuote,
  Undo2,
  type LucideIcon,
} from 'lucide-react'

import { IconButton } from '../../ui/IconButton'

interface Props {
  label: string
  /** HTML that it begins with; what is written from then on comes by `onChange`. */
  page: string
  onChange: (page: string) => void
  /** Pictures that are pasted, and files that are dropped. */
  onFiles: (files: FileList) => void
}

/** What is written: paragraphs, lists, bold, links, tables pasted from a spreadsheet. */
export function Paper({ label, page, onChange, onFiles }: Props) {
  const take = (files: FileList | undefined) => {
    if (!files?.length) return false
    onFiles(files)
    return true
  }
  const editor = useEditor({
    extensions: [
      StarterKit.configure({
        heading: false,
        codeBlock: false,
        horizontalRule: false,
        link: { openOnClick: false },
      }),
      TableKit,
    ],
    content: page,
    injectCSS: false,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-label': label,
        'aria-multiline': 'true',
        class:
          'mail-page min-h-[220px] border border-line px-3 py-2 text-read outline-none focus:border-plum',
      },
      // A spreadsheet pastes a table and a picture of it: the table is meant.
      handlePaste: (_, event) =>
        !event.clipboardData?.getData('text/html') && take(event.clipboardData?.files),
      handleDrop: (_, event, __, moved) => !moved && take(event.dataTransfer?.files),
    },
    onUpdate: ({ editor: now }) => onChange(now.isEmpty ? '' : now.getHTML()),
  })
  return (
    <div>
      {editor && <Tools editor={editor} />}
      <EditorContent editor={editor} />
    </div>
  )
}

/** Each with what it does, and what is on where it is on. */
const TOOLS: {
  label: string
  Icon: LucideIcon
  on?: string
  run: (chain: ChainedCommands) => ChainedCommands
}[] = [
  { label: 'Bold', Icon: Bold, on: 'bold', run: (chain) => chain.toggleBold() },
  { label: 'Italic', Icon: Italic, on: 'italic', run: (chain) => chain.toggleItalic() },
  { label: 'A list', Icon: List, on: 'bulletList', run: (chain) => chain.toggleBulletList() },
  {
    label: 'A numbered list',
    Icon: ListOrdered,
    on: 'orderedList',
    run: (chain) => chain.toggleOrderedList(),
  },
  { label: 'Quoted', Icon: TextQuote, on: 'blockquote', run: (chain) => chain.toggleBlockquote() },
  {
    label: 'A table',
    Icon: Table2,
    run: (chain) => chain.insertTable({ rows: 3, cols: 3, withHeaderRow: true }),
  },
  { label: 'Undo', Icon: Undo2, run: (chain) => chain.undo() },
]

function Tools({ editor }: { editor: Editor }) {
  const on = useEditorState({
    editor,
    selector: ({ editor: now }) => ({
      ...Object.fromEntries(
        TOOLS.map(({ label, on: name }) => [label, name ? now.isActive(name) : undefined]),
      ),
      link: now.isActive('link'),
    }),
  }) as Record<string, boolean | undefined>
  return (
    <div
      role="toolbar"
      aria-label="How it is written"
      className="flex flex-wrap gap-1 border-b border-line pb-1"
    >
      {TOOLS.map(({ label, Icon, run }) => (
        <IconButton
          key={label}
          label={label}
          pressed={on[label]}
          icon={<Icon size={15} aria-hidden />}
          onClick={() => run(editor.chain().focus()).run()}
        />
      ))}
      <IconButton
        label={on['link'] ? 'Without the link' : 'A link to the address that is selected'}
        pressed={on['link']}
        icon={<Link2 size={15} aria-hidden />}
        onClick={() => setLink(editor)}
      />
    </div>
  )
}

/** Of an address that is selected, or typed before the selection ends, a link is made. */
function setLink(editor: Editor) {
  if (editor.isActive('link')) {
    editor.chain().focus().extendMarkRange('link').unsetLink().run()
    return
  }
  const { from, to } = editor.state.selection
  const words = editor.state.doc.textBetween(from, to).trim()
  if (words)
    editor
      .chain()
      .focus()
      .setLink({ href: /^[a-z]+:/i.test(words) ? words : `https://${words}` })
      .run()
}
