import { FRAME_MS, type HeardReport } from '@porch/sound';
import type { Participant } from '@porch/core';
import { decodeSound, type Clock } from '@porch/wire';
import { unlessUnreadable } from '../unless-unreadable.ts';
import type { VoiceOut } from './sound-ports.ts';

/** 50 come in a second, and more after a stall: what comes beyond these is a flood, and is not decoded. */
const MOST_IN_A_REPORT = 150;
/** The messages of one report have room for so many. */
const MOST_COUNTED = 1_000;
const MOST_LATE_MS = 60_000;

/** One speaker, as they are heard here. */
export class SoundHearing {
  readonly #clock: Clock;
  readonly #open: () => VoiceOut;
  #out: VoiceOut | undefined;
  #startId = '';
  #last: number | undefined;
  #got = 0;
  #lost = 0;
  #lateMs = 0;
  /** When the first would have been captured, had nothing been held up on the way. */
  #beganMs = Infinity;

  constructor(clock: Clock, open: () => VoiceOut) {
    this.#clock = clock;
    this.#open = open;
  }

  get peak(): number {
    return this.#out?.peak ?? 0;
  }

  /** False for what is no sound. */
  take(plain: Uint8Array, { startId }: Pick<Participant, 'startId'>): boolean {
    const packet = unlessUnreadable(() => decodeSound(plain));
    if (!packet) return false;
    // A program that came back counts anew.
    if (startId !== this.#startId) this.#last = undefined;
    this.#startId = startId;
    const { number, isFirst } = packet;
    // An earlier one cannot come: somebody says a number twice.
    if (this.#last !== undefined && number <= this.#last) return false;
    const lost = isFirst || this.#last === undefined ? 0 : number - this.#last - 1;
    this.#last = number;
    if (this.#got >= MOST_IN_A_REPORT) return false;
    this.#got++;
    this.#lost += lost;
    const beganMs = this.#clock.nowMs() - number * FRAME_MS;
    this.#beganMs = isFirst ? beganMs : Math.min(this.#beganMs, beganMs);
    this.#lateMs = Math.max(this.#lateMs, beganMs - this.#beganMs);
    (this.#out ??= this.#open()).take(packet, lost);
    return true;
  }

  /** What came since the last time. */
  report(): HeardReport {
    const report = {
      got: this.#got,
      lost: Math.min(MOST_COUNTED, this.#lost),
      lateMs: Math.min(MOST_LATE_MS, Math.round(this.#lateMs)),
    };
    this.#got = this.#lost = this.#lateMs = 0;
    return report;
  }

  close(): void {
    this.#out?.close();
    this.#out = undefined;
  }
}
