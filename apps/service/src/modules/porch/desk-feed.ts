import { PorchTold, type PorchView } from '@porch/wire';
import type { ServerResponse } from 'node:http';
import type { Background } from '../../module/background.ts';
import { bothOf, type Scope } from '../../module/changes.ts';
import { refusalOf } from '../../refusal-of.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import type { PorchBoard } from './porch-board.ts';

/** Changes that come together are told together. */
const GATHER_MS = 80;
const BEAT_MS = 15_000;
const MAX_READERS = 500;
/** A reader with this much unread is cut; its page connects again and gets the whole porch. */
const MAX_UNREAD_BYTES = 1024 * 1024;

interface Reader {
  readonly signInId: string;
  readonly technicianId: string;
  /** The whole porch each time, for pages of the release before. */
  readonly wantsWhole: boolean;
  readonly told: PorchTold;
}

export interface DeskFeedParts {
  readonly background: Background;
  readonly board: PorchBoard;
  readonly technicians: Technicians;
}

/** Server-sent events: after each change every reader is told what is other for them. */
export class DeskFeed {
  readonly #parts: DeskFeedParts;
  readonly #readers = new Map<ServerResponse, Reader>();
  readonly #beat: ReturnType<typeof setInterval>;
  #gathering: ReturnType<typeof setTimeout> | undefined;
  /** What has changed and was not told yet. */
  #due: Scope | undefined;
  #isTelling = false;

  constructor(parts: DeskFeedParts) {
    this.#parts = parts;
    this.#beat = setInterval(() => {
      for (const reader of this.#readers.keys()) reader.write(': still here\n\n');
      // What is other by the time alone.
      this.changed({ parts: [] });
    }, BEAT_MS);
  }

  /** False when there are too many readers already. */
  add(response: ServerResponse, who: Pick<Reader, 'signInId' | 'technicianId' | 'wantsWhole'>): boolean {
    if (this.#readers.size >= MAX_READERS) return false;
    this.#readers.set(response, { ...who, told: new PorchTold() });
    response.on('error', () => response.destroy());
    response.on('close', () => {
      this.#readers.delete(response);
      if (![...this.#readers.values()].some(({ technicianId }) => technicianId === who.technicianId))
        this.#parts.board.forget(who.technicianId);
    });
    this.#parts.board.lookAnew(who.technicianId);
    // While nobody looked, nothing was read: then nothing is known.
    this.changed(this.#readers.size === 1 ? {} : { technicianIds: [who.technicianId] });
    return true;
  }

  /** A sign-in has ended: who reads with it reads no more. */
  endSignIn(signInId: string): void {
    for (const [response, { signInId: of }] of this.#readers) if (of === signInId) response.end();
  }
  get size(): number {
    return this.#readers.size;
  }
  get signIns(): string[] {
    return [...this.#readers.values()].map(({ signInId }) => signInId);
  }

  changed = (scope: Scope): void => {
    if (!this.#readers.size) return;
    this.#due = this.#due ? bothOf(this.#due, scope) : scope;
    if (this.#isTelling) return;
    this.#gathering ??= setTimeout(() => {
      this.#gathering = undefined;
      this.#parts.background.run('telling the porch', () => this.#tell());
    }, GATHER_MS);
  };

  close(): void {
    clearInterval(this.#beat);
    clearTimeout(this.#gathering);
    for (const response of this.#readers.keys()) response.end();
    this.#readers.clear();
  }

  /** One round at a time, so that nobody is told an older porch after a newer one. */
  async #tell(): Promise<void> {
    const scope = this.#due;
    if (!scope) return;
    this.#due = undefined;
    this.#isTelling = true;
    const readers = [...this.#readers];
    try {
      const looking = new Map<string, Technician>();
      for (const [response, { technicianId }] of readers) {
        const technician = this.#parts.technicians.get(technicianId);
        // Forbidden meanwhile: they are told nothing more. Whoever is new here is told as soon as they are known.
        if (technician?.disabledAt) response.end();
        else if (technician) looking.set(technicianId, technician);
      }
      await this.#parts.board.refresh(scope, [...looking.values()]);
      const views = new Map([...looking].map(([id, technician]) => [id, this.#parts.board.viewOf(technician)]));
      for (const [response, reader] of readers) {
        const view = views.get(reader.technicianId);
        if (view && !response.writableEnded) tell(response, reader, view);
      }
    } catch (error) {
      // The records are away: the pages connect again and learn it.
      for (const [response] of readers) response.end();
      if (refusalOf(error).code === 'INTERNAL') throw error;
    } finally {
      this.#isTelling = false;
      if (this.#due) this.changed({ parts: [] });
    }
  }
}

function tell(response: ServerResponse, reader: Reader, view: PorchView): void {
  if (response.writableLength > MAX_UNREAD_BYTES) {
    response.destroy();
    return;
  }
  const change = reader.told.difference(view);
  if (!change) return;
  response.write(
    reader.wantsWhole
      ? `event: porch\ndata: ${JSON.stringify(view)}\n\n`
      : `event: change\ndata: ${JSON.stringify(change)}\n\n`,
  );
}
