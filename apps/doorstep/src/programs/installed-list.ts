import type { ProgramRow } from '@porch/core';
import { PartMissing, type ProgramReading } from '@porch/host';
import { statSync } from 'node:fs';
import { short, textOf } from '../system/text-of.ts';

const AT_ONCE = 200;
const KIB = 1_024;

/** dpkg's own file of packages (deb-control(5)): those that are there whole. */
export function installedOf(status: string): ProgramRow<'installed'>[] {
  return status.split('\n\n').flatMap((stanza) => {
    if (!/^Status: install ok installed$/m.test(stanza)) return [];
    const field = (name: string) => new RegExp(`^${name}: (.*)$`, 'm').exec(stanza)?.[1] ?? '';
    const [name, version, size] = [field('Package'), field('Version'), field('Installed-Size')];
    if (!name) return [];
    return {
      id: `${name}:${field('Architecture')}`.slice(0, 160),
      name: short(name),
      version: short(version),
      ...(/^\d+$/.test(size) ? { sizeBytes: Number(size) * KIB } : {}),
      about: short(field('Description')),
    };
  });
}

/** When a package was put there or changed: then dpkg wrote the list of its files anew. */
function changedAtMs(id: string): number | undefined {
  const [name = ''] = id.split(':');
  for (const file of [name, id]) {
    const found = statSync(`/var/lib/dpkg/info/${file}.list`, { throwIfNoEntry: false });
    if (found) return Math.round(found.mtimeMs);
  }
  return undefined;
}

/** Programs that are installed. */
export class InstalledList implements ProgramReading<'installed'> {
  async read(signal: AbortSignal): Promise<ProgramRow<'installed'>[]> {
    const status = textOf('/var/lib/dpkg/status');
    if (status === undefined) throw new PartMissing('not-there');
    const rows = installedOf(status);
    const dated: ProgramRow<'installed'>[] = [];
    for (let at = 0; at < rows.length; at += AT_ONCE) {
      for (const row of rows.slice(at, at + AT_ONCE)) {
        const atMs = changedAtMs(row.id);
        dated.push(atMs === undefined ? row : { ...row, changedAtMs: atMs });
      }
      await new Promise((resolve) => setImmediate(resolve));
      signal.throwIfAborted();
    }
    return dated;
  }
}
