import { inBackground } from '@porch/client';
import type { SessionCommand } from '@porch/core';
import { SessionCommand as SessionCommandSchema } from '@porch/core';
import { randomUUID } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { mkdir, open, type FileHandle } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { jsonOrUndefined } from '../json-or-undefined.ts';
import { isAlive } from '../processes.ts';
import { isRunning, ownMaker } from '../system/maker.ts';
import { textOf } from '../system/text-of.ts';
import type { Warn } from '../warn.ts';
import { writeWhole } from '../whole-file.ts';

const Line = z.union([
  z.strictObject({ id: z.uuid(), command: SessionCommandSchema }),
  z.strictObject({ delivered: z.uuid() }),
]);

export interface Fact {
  readonly id: string;
  readonly command: SessionCommand;
}
export interface AddedFact extends Fact {
  /** Resolves when it is on the disk. What it says holds from the moment it was added. */
  readonly written: Promise<void>;
}

const NOT_WRITTEN = 'what was decided here cannot be written down: it is told, and holds as long as this program runs';

/** The first line: whose file it is. A process of the same number may run after a restart of the computer. */
const Head = z.strictObject({ maker: z.string() });

/** A file of facts of this session whose program is gone: named by its process, or by none, as earlier releases did. */
function isLeftBehind(folder: string, name: string, sessionId: string): boolean {
  const match = name.match(/^facts-([0-9a-f-]+)(?:\.(\d+))?\.jsonl$/);
  if (match?.[1] !== sessionId) return false;
  const pid = match[2] === undefined ? undefined : Number(match[2]);
  if (pid === undefined || pid === process.pid || !isAlive(pid)) return true;
  const [first = ''] = (textOf(join(folder, name)) ?? '').split('\n', 1);
  const head = Head.safeParse(jsonOrUndefined(first));
  return head.success && !isRunning(head.data.maker);
}

/**
 * What was refused, withdrawn and stopped at this computer, in a file: it holds at once, also without the service, and
 * is delivered when the line is back. Written to the disk before anybody is told, and never in the way: a disk may take
 * seconds, and meanwhile keys must still be let go.
 */
export class FactJournal {
  readonly #file: string;
  readonly #waiting = new Map<string, Fact>();
  #number = 0;
  /** Undefined where nothing can be written: then it holds for as long as this program runs. */
  readonly #handle: Promise<FileHandle | undefined>;
  readonly #warn: Warn;
  #work: Promise<void>;
  #isClosed = false;

  /**
   * `lastTold`: the highest number that the session knows of this participant; facts go on after it. What a program that
   * ended left behind is taken over; what one that still runs has in hand stays with it, and each has a file of its own.
   */
  constructor(folder: string, sessionId: string, warn: Warn, lastTold = 0) {
    this.#warn = warn;
    this.#number = lastTold;
    const mine = `facts-${sessionId}.${process.pid}.jsonl`;
    this.#file = join(folder, mine);
    const left = (existsSync(folder) ? readdirSync(folder) : []).filter((name) =>
      isLeftBehind(folder, name, sessionId),
    );
    for (const name of left) this.#read(join(folder, name));
    this.#handle = this.#begin().catch((error: unknown) => {
      // A disk that is full must not keep people from deciding. What was left behind stays where it lies.
      this.#warn(String(error), NOT_WRITTEN);
      return undefined;
    });
    this.#work = this.#handle.then((handle) => {
      if (handle) for (const name of left) if (name !== mine) rmSync(join(folder, name), { force: true });
    });
  }

  get waiting(): Fact[] {
    return [...this.#waiting.values()];
  }

  /** Numbers the fact and writes it down. */
  add(make: (fact: number) => SessionCommand): AddedFact {
    const fact: Fact = { id: randomUUID(), command: make(++this.#number) };
    this.#waiting.set(fact.id, fact);
    return { ...fact, written: this.#append(fact, true) };
  }

  markDelivered(id: string): void {
    // Lost in a crash, this line only means that the service hears a fact twice; it knows the id.
    if (this.#waiting.delete(id))
      inBackground('writing down what was delivered', this.#append({ delivered: id }, false));
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    await this.#work;
    await (await this.#handle)?.close();
    // What was delivered is in the ledger; an empty journal need not lie about.
    if (!this.#waiting.size) rmSync(this.#file, { force: true });
  }

  /** What was delivered is history that the ledger keeps; the file starts with what is still due. */
  async #begin(): Promise<FileHandle> {
    await mkdir(dirname(this.#file), { recursive: true, mode: 0o700 });
    const lines = [{ maker: ownMaker }, ...this.#waiting.values()].map((line) => `${JSON.stringify(line)}\n`);
    writeWhole(this.#file, lines.join(''));
    return open(this.#file, 'a', 0o600);
  }
  #append(line: Fact | { delivered: string }, isDurable: boolean): Promise<void> {
    if (this.#isClosed) return Promise.resolve();
    const written = this.#work.then(async () => {
      const handle = await this.#handle;
      await handle?.appendFile(`${JSON.stringify(line)}\n`);
      if (isDurable) await handle?.datasync();
    });
    // A disk that is full must not keep what a person decided from being told: the next line tries again.
    this.#work = written.catch((error: unknown) => this.#warn(String(error), NOT_WRITTEN));
    return this.#work;
  }

  #read(file: string): void {
    let text: string;
    try {
      text = readFileSync(file, 'utf8');
    } catch {
      return; // No journal yet.
    }
    for (const line of text.split('\n')) {
      if (!line) continue;
      const parsed = Line.safeParse(jsonOrUndefined(line));
      // Half a line is what a crash leaves behind; what came before it is whole.
      if (!parsed.success) continue;
      if ('delivered' in parsed.data) this.#waiting.delete(parsed.data.delivered);
      else {
        this.#waiting.set(parsed.data.id, parsed.data);
        const { command } = parsed.data;
        if ('fact' in command) this.#number = Math.max(this.#number, command.fact ?? 0);
      }
    }
  }
}
