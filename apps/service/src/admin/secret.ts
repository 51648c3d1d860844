import { randomBytes } from 'node:crypto';
import { chmodSync, renameSync, writeFileSync } from 'node:fs';
import type { Config } from '../config.ts';

/** Puts a new secret before the one that is there; what was kept with that one is still found. The one before goes. */
export function rotateSecret({ secretFile, secrets: [now] }: Config): void {
  const next = `${secretFile}.next`;
  writeFileSync(next, `${randomBytes(32).toString('hex')}\n${now.toString('hex')}\n`, { mode: 0o600, flag: 'wx' });
  chmodSync(next, 0o600);
  renameSync(next, secretFile);
}
