/** A file with the folders it lay in, like `Issue 3/Plans`; empty for a file that was chosen alone. */
export interface Found {
  file: File
  folder: string
}

const OF_SYSTEMS = new Set(['.ds_store', 'thumbs.db', 'ehthumbs.db', 'desktop.ini', '.localized'])

/** A file that a system or an archiver leaves beside the real ones; the core knows the same of archives. */
export function isOfASystem({ file, folder }: Found): boolean {
  const name = file.name.toLowerCase()
  if (folder.toLowerCase().split('/').includes('__macosx')) return true
  return OF_SYSTEMS.has(name) || name.startsWith('._') || name.startsWith('~$')
}

/** A file out of a folder that was chosen: the browser tells the way to it. */
export function withFolder(file: File): Found {
  return { file, folder: file.webkitRelativePath.split('/').slice(0, -1).join('/') }
}

/** All files of a drop, those in folders too. Must be asked at once: the browser forgets a drop after its event. */
export async function filesOf(dropped: DataTransfer): Promise<Found[]> {
  const entries = [...dropped.items].map((item) => item.webkitGetAsEntry())
  const plain = [...dropped.files]
  if (!entries.some((entry) => entry?.isDirectory)) return plain.map((file) => ({ file, folder: '' }))
  const found: Found[] = []
  for (const entry of entries) if (entry) await walk(entry, '', found)
  return found
}

async function walk(entry: FileSystemEntry, folder: string, found: Found[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    )
    found.push({ file, folder })
    return
  }
  const below = folder ? `${folder}/${entry.name}` : entry.name
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  // A reader gives a hundred entries at a time, and none at the end.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    )
    if (!some.length) return
    for (const each of some) await walk(each, below, found)
  }
}
