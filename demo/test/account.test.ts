import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { ensureFolderForAll } from '../src/account.ts';

const base = mkdtempSync(join(tmpdir(), 'porch-accounts-'));
const before = process.umask(0o022);
afterEach(() => {
  process.umask(before);
  rmSync(base, { recursive: true, force: true });
});

describe('what a machine on which nothing ran before has', () => {
  it('is a folder for sockets that every account may write to, whatever the process keeps from others', () => {
    const path = join(base, 'sockets');
    ensureFolderForAll(path);
    expect((statSync(path).mode & 0o7777).toString(8)).toBe('1777');
    ensureFolderForAll(path);
  });
});
