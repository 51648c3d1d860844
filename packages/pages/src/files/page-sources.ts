import { folderSource, type FileToSend, type FolderMember } from '@porch/client';

const readOf = (file: File) => async (offset: number, length: number) =>
  new Uint8Array(await file.slice(offset, offset + length).arrayBuffer());

export const sourceOfFile = (file: File): FileToSend => ({
  name: file.name,
  sizeBytes: file.size,
  read: readOf(file),
});
const memberOf = (path: string, file: File): FolderMember => ({
  path,
  changedAtMs: file.lastModified,
  file: { sizeBytes: file.size, read: readOf(file) },
});

/** What a chooser of folders gives: the files of one folder, each with its path. `depth` 2 is a folder within the chosen one. */
export function sourceOfChosenFolder(files: readonly File[], depth = 1): FileToSend | undefined {
  const parts = ({ webkitRelativePath }: File) => webkitRelativePath.split('/');
  const [first] = files;
  const name = first && parts(first)[depth - 1];
  if (name === undefined) return undefined;
  return folderSource(
    name,
    files.map((file) => memberOf(parts(file).slice(depth).join('/'), file)),
  );
}

const fileOf = (entry: FileSystemFileEntry) => new Promise<File>((resolve, reject) => entry.file(resolve, reject));

/** A browser tells of a folder a hundred at a time, until it tells of none. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (!some.length) return all;
    all.push(...some);
  }
}

async function membersOf(folder: FileSystemDirectoryEntry, below: string): Promise<FolderMember[]> {
  const members: FolderMember[] = [];
  for (const entry of await entriesOf(folder)) {
    const path = below + entry.name;
    if (entry.isFile) members.push(memberOf(path, await fileOf(entry as FileSystemFileEntry)));
    else {
      members.push({ path, changedAtMs: Date.now() });
      members.push(...(await membersOf(entry as FileSystemDirectoryEntry, `${path}/`)));
    }
  }
  return members;
}

/** What was dropped: files and folders. What they are is asked in the tick of the drop; it is forgotten afterwards. */
export function sourcesOfDrop(data: DataTransfer): Promise<FileToSend[]> {
  const dropped = [...data.items].flatMap((item) => item.webkitGetAsEntry() ?? item.getAsFile() ?? []);
  return Promise.all(dropped.map((one) => (one instanceof File ? sourceOfFile(one) : sourceOfEntry(one))));
}

const sourceOfEntry = async (entry: FileSystemEntry): Promise<FileToSend> =>
  entry.isFile
    ? sourceOfFile(await fileOf(entry as FileSystemFileEntry))
    : folderSource(entry.name, await membersOf(entry as FileSystemDirectoryEntry, ''));
