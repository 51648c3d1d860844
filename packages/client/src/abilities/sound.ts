import { consentHolderOf } from '@porch/core';
import { SAY_HEARD_MS, soundChannel, type SoundMessage } from '@porch/wire';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';
import { SoundHearing } from '../sound/sound-hearing.ts';
import type { VoiceOut } from '../sound/sound-ports.ts';

/** The technician's side of hearing the customer's computer: what is not listened to is not sent. */
export class TechnicianSound {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<SoundMessage>;
  readonly #hearing: SoundHearing;
  readonly #off: () => void;
  #endSaying: (() => void) | undefined;

  /** `speaker` opens where it is heard. */
  constructor(connection: LiveConnection, speaker: () => VoiceOut) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, soundChannel);
    this.#hearing = new SoundHearing(connection.clock, speaker);
    this.#off = this.#line.listenPlain(
      (from, plain) => void (this.isOn && this.#hearing.take(plain, from)),
      (from) => from.id === consentHolderOf(connection.state)?.id,
    );
  }

  get isOn(): boolean {
    return this.#endSaying !== undefined;
  }
  get peak(): number {
    return this.#hearing.peak;
  }

  setOn(isOn: boolean): void {
    if (isOn === this.isOn) return;
    this.#endSaying?.();
    this.#endSaying = isOn ? this.#connection.clock.every(SAY_HEARD_MS, () => this.#say()) : undefined;
    if (!isOn) this.#hearing.close();
    this.#say();
  }

  close(): void {
    this.setOn(false);
    this.#off();
  }

  #say(): void {
    const holder = consentHolderOf(this.#connection.state);
    if (holder) this.#line.send(holder.seat, { type: 'listen', isOn: this.isOn, ...this.#hearing.report() });
  }
}
