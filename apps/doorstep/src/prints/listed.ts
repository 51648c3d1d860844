import { PrinterRefused, type HostLog, type PrinterOrder } from '@porch/host';
import { realClock } from '@porch/wire';
import { printerWord, takeOutOfTheList, type ListedPrinter } from './out-of-the-list.ts';
import type { PrintSystem } from './print-system.ts';
import type { LeftGuard } from '../left-guard.ts';

/**
 * A printer that was added without rights is taken out of the list a minute after it was added or printed on, wanted or
 * not. Just before that it is looked at all the time, so that it is there again before anybody misses it.
 */
const LEAVES_AFTER_MS = 59_000;
const SURELY_GONE_AFTER_MS = 65_000;
const LOOK_EVERY_MS = 5_000;
const LOOK_OFTEN_MS = 100;
/** Something that nobody here knows of keeps it there. */
const LOOK_AGAIN_MS = 500;
/** The print system may be restarted: only after this long without it the printer is given up. */
const GIVE_UP_AFTER_MS = 60_000;
/** Printers of one name that somebody may have already. */
const MAX_SAME_NAME = 20;

export interface ListParts {
  readonly log: HostLog;
  readonly guard: LeftGuard;
}

/** A printer's place in the list, kept for as long as it is wanted. */
export class Listed implements ListedPrinter {
  readonly name: string;
  readonly device: string;
  readonly #system: PrintSystem;
  readonly #order: PrinterOrder;
  readonly #parts: ListParts;
  #seenAtMs = realClock.nowMs();
  #usedAtMs = realClock.nowMs();
  #isOver = false;
  #looking = Promise.resolve();
  #endWaiting: () => void = () => undefined;

  private constructor({ name, device }: ListedPrinter, system: PrintSystem, order: PrinterOrder, parts: ListParts) {
    [this.name, this.device, this.#system, this.#order, this.#parts] = [name, device, system, order, parts];
  }

  static async add(
    system: PrintSystem,
    wanted: string,
    device: string,
    order: PrinterOrder,
    parts: ListParts,
  ): Promise<Listed> {
    const name = await freeName(system, wanted);
    const listed = new Listed({ name, device }, system, order, parts);
    parts.guard.report('printer', printerWord(listed), true);
    try {
      await system.addLocal(name, device, order.title);
      listed.#lookSoon();
      return listed;
    } catch (error) {
      listed.remove();
      throw error;
    }
  }

  /** From now on nobody keeps it there. It may take the print system two minutes to let go of it: who waits for that looks after it until then. */
  remove(): void {
    this.#isOver = true;
    this.#endWaiting();
    // What is under way would put it there again.
    this.#looking
      .then(() => takeOutOfTheList(this.#system, this, false))
      .then(() => this.#parts.guard.report('printer', printerWord(this), false))
      .catch((error: unknown) => this.#parts.log.warn({ why: String(error) }, 'a printer stays in the list'));
  }

  /** Somebody printed on it: its minute begins anew. */
  wasUsed(): void {
    this.#usedAtMs = realClock.nowMs();
  }

  #lookSoon(): void {
    if (this.#isOver) return;
    const sinceMs = realClock.nowMs() - this.#usedAtMs;
    const lateMs = sinceMs < SURELY_GONE_AFTER_MS ? LOOK_OFTEN_MS : LOOK_AGAIN_MS;
    const inMs = sinceMs < LEAVES_AFTER_MS ? Math.min(LOOK_EVERY_MS, LEAVES_AFTER_MS - sinceMs) : lateMs;
    this.#endWaiting = realClock.after(inMs, () => {
      this.#looking = this.#look()
        .catch((error: unknown) => this.#miss(error))
        .then(() => this.#lookSoon());
    });
  }

  async #look(): Promise<void> {
    const device = await this.#system.deviceOf(this.name);
    if (device !== undefined && device !== this.device) throw new Error('another printer has its name');
    if (device === undefined && !this.#isOver) {
      await this.#system.addLocal(this.name, this.device, this.#order.title);
      this.wasUsed();
    }
    this.#seenAtMs = realClock.nowMs();
  }

  #miss(error: unknown): void {
    if (this.#isOver) return;
    this.#parts.log.warn({ why: String(error) }, 'the printer could not be kept in the list');
    if (realClock.nowMs() - this.#seenAtMs < GIVE_UP_AFTER_MS) return;
    this.#isOver = true;
    this.#endWaiting();
    this.#order.broke(error);
  }
}

async function freeName(system: PrintSystem, wanted: string): Promise<string> {
  for (let n = 1; n <= MAX_SAME_NAME; n++) {
    const name = n === 1 ? wanted : `${wanted}_${n}`;
    if ((await system.deviceOf(name)) === undefined) return name;
  }
  throw new PrinterRefused('too many printers have its name already');
}
