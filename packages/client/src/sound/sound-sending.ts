import { SoundRate, type RateSteps } from '@porch/sound';
import { encodeSound, LISTENING_MS, type Clock, type SoundMessage } from '@porch/wire';
import type { SealedLine } from '../sealed-line.ts';
import type { Capture, Captured } from './sound-ports.ts';

interface Listening {
  heardAtMs: number;
  readonly rate: SoundRate;
}

/** One sound to everybody who wants it, as well as the worst of their lines carries it. */
export class SoundSending {
  readonly #line: SealedLine<SoundMessage>;
  readonly #clock: Clock;
  readonly #steps: RateSteps;
  readonly #listening = new Map<number, Listening>();
  #number = -1;
  /** What is captured with which rate. */
  #tuned: { readonly capture: Pick<Capture, 'setBitrate'>; readonly bits: number } | undefined;

  constructor(line: SealedLine<SoundMessage>, clock: Clock, steps: RateSteps) {
    this.#line = line;
    this.#clock = clock;
    this.#steps = steps;
  }

  /** Seats that want it. */
  get seats(): readonly number[] {
    const nowMs = this.#clock.nowMs();
    for (const [seat, { heardAtMs }] of this.#listening)
      if (nowMs - heardAtMs > LISTENING_MS) this.#listening.delete(seat);
    return [...this.#listening.keys()];
  }
  /** What to encode with; undefined while no line carries any. */
  get bitsPerSecond(): number | undefined {
    const nowMs = this.#clock.nowMs();
    const rates = [...this.#listening.values()].flatMap(({ rate }) => rate.at(nowMs) ?? []);
    return rates.length ? Math.min(...rates) : undefined;
  }

  /** What a listener says of it. */
  hear(seat: number, message: Extract<SoundMessage, { type: 'listen' }>): void {
    if (!message.isOn) return void this.#listening.delete(seat);
    const nowMs = this.#clock.nowMs();
    const known = this.#listening.get(seat) ?? { heardAtMs: nowMs, rate: new SoundRate(this.#steps) };
    known.heardAtMs = nowMs;
    known.rate.take(message, nowMs);
    this.#listening.set(seat, known);
  }

  /** What is captured from now on is as large as the lines carry. */
  tune(capture: Pick<Capture, 'setBitrate'>): void {
    const bits = this.bitsPerSecond;
    if (bits === undefined || (this.#tuned?.capture === capture && this.#tuned.bits === bits)) return;
    this.#tuned = { capture, bits };
    capture.setBitrate(bits);
  }

  /** `may` is asked in the very tick that sends. Answers how many were sent it. */
  send({ channels, opus, silentFrames }: Captured, may: (seat: number) => boolean): number {
    const nowMs = this.#clock.nowMs();
    const isFirst = this.#number < 0 || silentFrames > 0;
    this.#number += 1 + silentFrames;
    const to = this.seats.filter((seat) => this.#listening.get(seat)?.rate.at(nowMs) !== undefined && may(seat));
    if (!to.length) return 0;
    const plain = encodeSound({ number: this.#number, isFirst, channels, opus });
    // Where the line is full it is lost, and the listener says so.
    for (const seat of to) this.#line.sendPlain(seat, plain);
    return to.length;
  }

  forget(seat: number): void {
    this.#listening.delete(seat);
  }
}
