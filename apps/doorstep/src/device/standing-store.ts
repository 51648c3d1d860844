import { StandingConsent } from '@porch/core';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { jsonOrUndefined } from '../json-or-undefined.ts';
import { writeWhole } from '../whole-file.ts';

const hex = (digits: number) => z.string().regex(new RegExp(`^[0-9a-f]{${digits}}$`));

/** A standing consent as it lies on the disk of the account that made it. */
export const Standing = z.strictObject({
  version: z.literal(1),
  /** The one account it is for. */
  uid: z.int(),
  serviceUrl: z.url(),
  deskName: z.string(),
  deviceId: z.uuid(),
  signSecret: hex(64),
  consent: StandingConsent,
  /** What is kept in place of the words: see `second-secret.ts` of the wire. */
  salt: hex(32),
  scalar: hex(64),
  triesLeft: z.int().min(0),
});
export type Standing = z.infer<typeof Standing>;

export const VisitLine = z.strictObject({
  atMs: z.number(),
  sessionId: z.uuid(),
  technicianName: z.string(),
  /** Whether anything could be seen or done. */
  hasBegun: z.boolean(),
});
export type VisitLine = z.infer<typeof VisitLine>;

/** The file is not what this account wrote: nobody is let in by it. */
export class StandingUnsafe extends Error {
  override readonly name = 'StandingUnsafe';
}

/** The newest visits are shown; the file never grows beyond what a year of daily visits needs. */
const MAX_VISITS_READ = 1_000;

/** What belongs to a standing consent on this account: the consent, its secret, and the list of visits. */
export class StandingStore {
  readonly #folder: string;
  readonly #file: string;
  readonly #visitsFile: string;

  constructor(folder: string) {
    this.#folder = folder;
    this.#file = join(folder, 'standing.json');
    this.#visitsFile = join(folder, 'visits.jsonl');
  }

  get exists(): boolean {
    return existsSync(this.#file);
  }

  /** Throws StandingUnsafe when the file is of somebody else, open to others, or not what we wrote. */
  read(): Standing | undefined {
    if (!this.exists) return undefined;
    const { uid, mode } = statSync(this.#file);
    const me = process.getuid?.() ?? -1;
    if (uid !== me || (mode & 0o077) !== 0)
      throw new StandingUnsafe(`${this.#file} is not this account's alone; remove it: doorstep standing end`);
    const parsed = Standing.safeParse(jsonOrUndefined(readFileSync(this.#file, 'utf8')));
    if (!parsed.success || parsed.data.uid !== me)
      throw new StandingUnsafe(
        `${this.#file} is not a standing consent of this account; remove it: doorstep standing end`,
      );
    return parsed.data;
  }

  write(standing: Standing): void {
    mkdirSync(this.#folder, { recursive: true, mode: 0o700 });
    writeWhole(this.#file, JSON.stringify(standing));
  }

  /** Takes one try before anything is compared, so that switching off in between wins nobody another. False: none left. */
  takeTry(): boolean {
    const standing = this.read();
    if (!standing || standing.triesLeft < 1) return false;
    this.write({ ...standing, triesLeft: standing.triesLeft - 1 });
    return true;
  }
  setTries(triesLeft: number): void {
    const standing = this.read();
    if (standing) this.write({ ...standing, triesLeft });
  }

  addVisit(visit: VisitLine): void {
    if (this.exists) appendFileSync(this.#visitsFile, `${JSON.stringify(visit)}\n`, { mode: 0o600 });
  }

  /** Newest first; of a visit that began after it came, only that it began. */
  visits(): VisitLine[] {
    if (!existsSync(this.#visitsFile)) return [];
    const lines = readFileSync(this.#visitsFile, 'utf8').split('\n').slice(-MAX_VISITS_READ);
    const visits = new Map<string, VisitLine>();
    for (const line of lines) {
      const parsed = VisitLine.safeParse(jsonOrUndefined(line));
      if (parsed.success && !visits.get(parsed.data.sessionId)?.hasBegun)
        visits.set(parsed.data.sessionId, parsed.data);
    }
    return [...visits.values()].reverse();
  }

  /** Everything goes: the consent, its secret, the visits, and the folder when nothing else is in it. */
  remove(): void {
    for (const file of [this.#file, `${this.#file}.new`, this.#visitsFile]) {
      // The secret's bytes first, for disks that only forget where a file was.
      if (existsSync(file)) writeFileSync(file, '');
      rmSync(file, { force: true });
    }
    if (existsSync(this.#folder) && !readdirSync(this.#folder).length) rmdirSync(this.#folder);
  }
}
