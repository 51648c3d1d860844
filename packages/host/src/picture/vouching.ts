import type { Watcher } from '@porch/client';
import type { DisplaySender } from './display-sender.ts';

/** Questions of one viewer that are remembered, a display each. */
const MOST_CHALLENGES = 9;

interface Challenge {
  readonly nonce: string;
  readonly needsTable: boolean;
  readonly display: number;
}

export interface VouchingParts {
  /** Resolves once the screen itself has answered. Never, while it stands still. */
  answers(): Promise<void>;
  readonly displays: ReadonlyMap<number, DisplaySender>;
  watchers(): readonly Watcher[];
  isWatching(): boolean;
  onTrouble(error: unknown, what: string): void;
}

/**
 * Answers what viewers ask with checkpoints. What a checkpoint vouches for is the desktop, and not this program's idea of
 * it: the desktop has to have answered after the questions came. One that stands still is vouched for by nobody, and grows
 * old at the viewers.
 */
export class Vouching {
  readonly #parts: VouchingParts;
  readonly #challenges = new Map<number, readonly Challenge[]>();
  /** Whose first question about a display was answered, as `seat|display`. */
  readonly #answered = new Set<string>();
  #isWaitingForScreen = false;

  constructor(parts: VouchingParts) {
    this.#parts = parts;
  }

  ask(seat: number, challenge: Challenge): void {
    const others = (this.#challenges.get(seat) ?? []).filter((c) => c.display !== challenge.display);
    this.#challenges.set(seat, [...others.slice(1 - MOST_CHALLENGES), challenge]);
    this.answerNewcomers();
  }

  /** Their first question is not answered yet. */
  welcome(newcomers: readonly Watcher[]): void {
    for (const name of this.#answered)
      if (newcomers.some(({ seat }) => name.startsWith(`${seat}|`))) this.#answered.delete(name);
  }

  /** Nobody may work before their picture is vouched for: the first question of each is not left for the next round. */
  answerNewcomers(): void {
    const { watchers, displays, isWatching } = this.#parts;
    if (!isWatching()) return;
    const isWaiting = watchers().some((watcher) =>
      watcher.displays.some(
        (display) =>
          !this.#answered.has(`${watcher.seat}|${display}`) &&
          this.#challenges.get(watcher.seat)?.some((c) => c.display === display) &&
          displays.get(display)?.isWhole,
      ),
    );
    if (isWaiting) this.answerAll();
  }

  answerAll(): void {
    if (this.#isWaitingForScreen) return;
    this.#isWaitingForScreen = true;
    const asked = new Map(this.#challenges);
    const { answers, isWatching, onTrouble } = this.#parts;
    answers()
      .finally(() => (this.#isWaitingForScreen = false))
      .then(
        () => {
          if (isWatching()) this.#checkpoint(asked);
          // Whoever asked meanwhile.
          this.answerNewcomers();
        },
        (error: unknown) => onTrouble(error, 'the screen does not answer'),
      );
  }

  #checkpoint(asked: ReadonlyMap<number, readonly Challenge[]>): void {
    const watchers = this.#parts.watchers();
    for (const [display, sender] of this.#parts.displays) {
      if (!watchers.some((w) => w.displays.includes(display))) continue;
      const echoes: { seat: number; nonce: string }[] = [];
      let isTableNeeded = false;
      for (const { seat } of watchers) {
        const challenge = asked.get(seat)?.find((c) => c.display === display);
        if (!challenge) continue;
        echoes.push({ seat, nonce: challenge.nonce });
        this.#answered.add(`${seat}|${display}`);
        isTableNeeded ||= challenge.needsTable;
      }
      sender.checkpoint(echoes, isTableNeeded);
      // What stands still is refined, though nothing moves.
      sender.pump(undefined);
    }
  }
}
