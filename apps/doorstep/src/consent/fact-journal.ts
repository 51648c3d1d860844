import type { SessionCommand } from '@porch/core';
import { SessionCommand as SessionCommandSchema } from '@porch/core';
import { randomUUID } from 'node:crypto';
import { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';

const Line = z.union([
  z.strictObject({ id: z.uuid(), command: SessionCommandSchema }),
  z.strictObject({ delivered: z.uuid() }),
]);

export interface Fact {
  readonly id: string;
  readonly command: SessionCommand;
}

/**
 * What was refused, withdrawn and stopped at this computer, in a file: it holds at once, also without the service, and
 * is delivered when the line is back. Written to the disk before anybody is told.
 */
export class FactJournal {
  readonly #file: string;
  readonly #waiting = new Map<string, Fact>();
  #number = 0;
  #descriptor: number;

  constructor(folder: string, sessionId: string) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    this.#file = join(folder, `facts-${sessionId}.jsonl`);
    this.#read();
    // What was delivered is history that the ledger keeps; the file starts with what is still due.
    const fresh = `${this.#file}.new`;
    writeFileSync(fresh, [...this.#waiting.values()].map((fact) => `${JSON.stringify(fact)}\n`).join(''), { mode: 0o600 });
    renameSync(fresh, this.#file);
    this.#descriptor = openSync(this.#file, 'a', 0o600);
  }

  get waiting(): Fact[] {
    return [...this.#waiting.values()];
  }

  /** Numbers the fact and writes it down. */
  add(make: (fact: number) => SessionCommand): Fact {
    const fact: Fact = { id: randomUUID(), command: make(++this.#number) };
    this.#waiting.set(fact.id, fact);
    this.#append(fact);
    return fact;
  }

  markDelivered(id: string): void {
    if (this.#waiting.delete(id)) this.#append({ delivered: id });
  }

  close(): void {
    if (this.#descriptor < 0) return;
    closeSync(this.#descriptor);
    this.#descriptor = -1;
  }

  #append(line: Fact | { delivered: string }): void {
    if (this.#descriptor < 0) return;
    writeSync(this.#descriptor, `${JSON.stringify(line)}\n`);
    fsyncSync(this.#descriptor);
  }

  #read(): void {
    let text: string;
    try {
      text = readFileSync(this.#file, 'utf8');
    } catch {
      return; // No journal yet.
    }
    for (const line of text.split('\n')) {
      if (!line) continue;
      const parsed = Line.safeParse(parseOrUndefined(line));
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

function parseOrUndefined(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return undefined;
  }
}
