import { RestartHow } from '@porch/core';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { jsonOrUndefined } from '../json-or-undefined.ts';
import { writeWhole } from '../whole-file.ts';

/** What a program that comes back has to know before it can ask for the rest: its session, its pass, what it has to undo. */
export const ReturnNote = z.strictObject({
  version: z.literal(1),
  sessionId: z.uuid(),
  serviceUrl: z.url(),
  token: z.string().max(200),
  /** Whoever comes later does not come back, and takes away what is left. */
  untilMs: z.number(),
  /** How it went down, once it was ordered. */
  how: RestartHow.optional(),
  /** Programs of this account may run while nobody is signed in, and before they might not. */
  hasLinger: z.boolean(),
  /** Files of programs that do not begin with the next sign-in: hidden by one of ours, or kept under another name. */
  hidden: z.array(z.string()).max(400),
  keptAside: z.array(z.string()).max(400),
});
export type ReturnNote = z.infer<typeof ReturnNote>;

const NAME = /^return-([0-9a-f-]{36})\.json$/;
const fileOf = (folder: string, sessionId: string) => join(folder, `return-${sessionId}.json`);

export function writeNote(folder: string, note: ReturnNote): void {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  writeWhole(fileOf(folder, note.sessionId), JSON.stringify(note));
}
export function removeNote(folder: string, sessionId: string): void {
  rmSync(fileOf(folder, sessionId), { force: true });
}

/** Every note of this account, the newest first; what is none, or not this account's alone, is left alone. */
export function readNotes(folder: string): ReturnNote[] {
  if (!existsSync(folder)) return [];
  const me = process.getuid?.() ?? -1;
  return readdirSync(folder)
    .filter((name) => NAME.test(name))
    .map((name) => join(folder, name))
    .filter((file) => statSync(file).uid === me && (statSync(file).mode & 0o077) === 0)
    .sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs)
    .flatMap((file) => {
      const read = ReturnNote.safeParse(jsonOrUndefined(readFileSync(file, 'utf8')));
      return read.success ? [read.data] : [];
    });
}
