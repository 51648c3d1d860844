import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { folderFrom, ownShell } from './own-shell.ts';

const folder = mkdtempSync(join(tmpdir(), 'own-shell-'));
afterAll(() => rmSync(folder, { recursive: true }));
const listed = (...shells: string[]) => {
  const file = join(folder, 'shells');
  writeFileSync(file, ['# what accounts may have', ...shells, ''].join('\n'));
  return file;
};

it('is what the account has, where the system lets it be one', () => {
  expect(ownShell('/bin/sh', listed('/bin/bash', '/bin/sh'))).toBe('/bin/sh');
  const none = 'this account has no command line';
  expect(() => ownShell('/bin/sh', listed('/bin/bash'))).toThrow(none);
  expect(() => ownShell('/usr/sbin/nologin', listed('/bin/sh'))).toThrow(none);
  expect(() => ownShell('', listed('', '/bin/sh'))).toThrow(none);
  expect(() => ownShell('/no/such', listed('/no/such')), 'not there').toThrow(none);
  expect(() => ownShell('/bin/sh', join(folder, 'no-list'))).toThrow(none);
  writeFileSync(join(folder, 'not-run'), '', { mode: 0o644 });
  expect(() => ownShell(join(folder, 'not-run'), listed(join(folder, 'not-run')))).toThrow(none);
});

it('begins in a folder that is there, from home on', async () => {
  mkdirSync(join(folder, 'Labels & ’passes’'));
  writeFileSync(join(folder, 'a-file'), '');
  expect(await folderFrom(folder, '')).toBe(folder);
  expect(await folderFrom(folder, '~')).toBe(folder);
  expect(await folderFrom(folder, '~/Labels & ’passes’')).toBe(join(folder, 'Labels & ’passes’'));
  expect(await folderFrom(folder, '/')).toBe('/');
  for (const none of ['a-file', 'not-there', '~root', '$HOME', 'a\0b'])
    await expect(folderFrom(folder, none), none).rejects.toThrow('there is no such folder');
});
