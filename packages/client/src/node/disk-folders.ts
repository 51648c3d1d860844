import { isRefusedKind } from '@porch/core';
import { lstat, mkdir, open, readdir, rm, utimes, type FileHandle } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import type { FileToSend } from '../abilities/files/file-ends.ts';
import { MOST_DEPTH, MOST_MEMBERS, readFolder, type ReadMember } from '../folders/folder-reader.ts';
import { folderSource, type FolderMember } from '../folders/folder-source.ts';
import { readExactly, writeAll } from './disk-files.ts';

const COPY_BYTES = 1024 * 1024;

export interface FolderRules {
  /** Why this is left out; undefined for what goes along. */
  whyNot?(path: string): Promise<string | undefined>;
  readonly refusedKinds: readonly string[];
}
export interface FolderToSend extends FileToSend {
  /** Links, what is neither file nor folder, and what the rules keep here. */
  readonly leftOut: number;
  close(): Promise<void>;
}

/** A folder of this computer with all that is in it. Links are not followed: none leads out, and none in a circle. */
export async function folderToSend(root: string, rules: FolderRules): Promise<FolderToSend> {
  const members: FolderMember[] = [];
  let leftOut = 0;
  /** One file is read at a time, from its beginning to its end. */
  let last: { readonly path: string; readonly handle: FileHandle } | undefined;
  const read = async (path: string, offset: number, length: number) => {
    if (last?.path !== path) {
      await last?.handle.close();
      last = undefined;
      last = { path, handle: await open(path, 'r') };
    }
    return readExactly(last.handle, offset, length);
  };
  const walk = async (folder: string, below: string, depth: number): Promise<void> => {
    if (depth > MOST_DEPTH) throw new Error('the folder is too deep');
    for (const name of (await readdir(folder)).sort()) {
      const path = join(folder, name);
      const found = await lstat(path);
      const isKept = (await rules.whyNot?.(path)) !== undefined || isRefusedKind(name, rules.refusedKinds);
      if (isKept || !(found.isFile() || found.isDirectory())) {
        leftOut++;
        continue;
      }
      if (members.length >= MOST_MEMBERS) throw new Error('the folder holds too many files');
      const about = { path: below + name, changedAtMs: found.mtimeMs };
      if (found.isFile())
        members.push({
          ...about,
          file: { sizeBytes: found.size, read: (offset, length) => read(path, offset, length) },
        });
      else {
        members.push(about);
        await walk(path, `${below}${name}/`, depth + 1);
      }
    }
  };
  await walk(root, '', 0);
  return { ...folderSource(basename(root), members), leftOut, close: async () => last?.handle.close() };
}

/** Puts what has arrived as one stream into a folder that it makes. Throws at what should not be in it, and leaves nothing then. */
export async function unpackFolder(
  handle: FileHandle,
  sizeBytes: number,
  into: string,
  refusedKinds: readonly string[],
): Promise<void> {
  await mkdir(into, { mode: 0o700 });
  try {
    for await (const member of readFolder((offset, length) => readExactly(handle, offset, length), sizeBytes)) {
      const path = join(into, ...member.path);
      if (member.isFolder) await mkdir(path, { recursive: true });
      else if (isRefusedKind(member.path.at(-1) ?? '', refusedKinds))
        throw new Error('the folder holds a file of a kind that the desk does not let be moved');
      else await putMember(handle, member, path);
    }
  } catch (error) {
    await rm(into, { recursive: true, force: true });
    throw error;
  }
}

async function putMember(handle: FileHandle, member: ReadMember, path: string): Promise<void> {
  const { offset, sizeBytes, changedAtMs } = member;
  await mkdir(dirname(path), { recursive: true });
  const out = await open(path, 'wx', 0o600);
  try {
    for (let at = 0; at < sizeBytes; at += COPY_BYTES)
      await writeAll(out, await readExactly(handle, offset + at, Math.min(COPY_BYTES, sizeBytes - at)), at);
  } finally {
    await out.close();
  }
  await utimes(path, new Date(), new Date(changedAtMs));
}
