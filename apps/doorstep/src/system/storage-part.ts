import type { PartOf } from '@porch/core';
import { statfs } from 'node:fs/promises';
import { short, textOf } from './text-of.ts';

/** Those of a disk, and what lies over one. Others are no room for anybody's files, or may never answer. */
const KINDS = new Set([
  'ext2',
  'ext3',
  'ext4',
  'xfs',
  'btrfs',
  'f2fs',
  'vfat',
  'exfat',
  'ntfs',
  'ntfs3',
  'zfs',
  'bcachefs',
  'overlay',
]);
const MAX_VOLUMES = 24;

export interface Mounted {
  readonly device: string;
  readonly at: string;
  readonly kind: string;
  readonly isReadOnly: boolean;
}

/** fstab(5): spaces and the like in a path are octal there. Each device once, as it was mounted first. */
export function mountedIn(mounts: string): Mounted[] {
  const seen = new Set<string>();
  const all: Mounted[] = [];
  for (const line of mounts.split('\n')) {
    const [device = '', path = '', kind = '', options = ''] = line.split(' ');
    if (!KINDS.has(kind) || seen.has(`${device} ${kind}`)) continue;
    seen.add(`${device} ${kind}`);
    const at = path.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(Number.parseInt(octal, 8)));
    all.push({ device, at, kind, isReadOnly: options.split(',').includes('ro') });
  }
  return all.slice(0, MAX_VOLUMES);
}

/** Those with the least room first. */
export async function readStorage(): Promise<PartOf<'storage'>> {
  const volumes = await Promise.all(
    mountedIn(textOf('/proc/self/mounts') ?? '').map(async ({ at, kind, isReadOnly }) => {
      const { blocks, bavail, bsize } = await statfs(at).catch(() => ({ blocks: 0, bavail: 0, bsize: 0 }));
      return { at: short(at), kind, totalBytes: blocks * bsize, freeBytes: bavail * bsize, isReadOnly };
    }),
  );
  const share = ({ totalBytes, freeBytes }: { totalBytes: number; freeBytes: number }) => freeBytes / totalBytes;
  return { volumes: volumes.filter(({ totalBytes }) => totalBytes > 0).sort((a, b) => share(a) - share(b)) };
}
