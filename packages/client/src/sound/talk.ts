import type { Participant } from '@porch/core';
import {
  decodeWords,
  SAY_HEARD_MS,
  SOUND_TAG,
  voiceChannel,
  WORDS_TAG,
  type Clock,
  type SoundMessage,
} from '@porch/wire';
import { Listeners } from '../listeners.ts';
import { SealedLine, type LineConnection } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';
import type { RateSteps } from '@porch/sound';
import { SoundHearing } from './sound-hearing.ts';
import { SoundSending } from './sound-sending.ts';
import type { Capture, Captured, VoicePort } from './sound-ports.ts';
import type { Microphone, TalkState } from './talk-state.ts';

/** Speech in one channel: clear, then enough, then understandable. */
const VOICE_BITS: RateSteps = [32_000, 20_000, 12_000];
/** What is shown of how loud somebody is changes this often. */
const LEVEL_MS = 100;

/** Who may take part. */
export interface TalkSides {
  /** Everybody else who may speak and be heard, in the very tick that asks. */
  others(): readonly Participant[];
  /** This microphone is open: said again as long as it is. */
  onOpened?(from: Participant): void;
}

interface Heard {
  readonly hearing: SoundHearing;
  microphone: Microphone;
}

/** Microphones, from everybody to everybody, mixed where they are heard. The same on both sides. */
export class Talk {
  readonly listeners = new Listeners<{ now: TalkState }>();
  readonly #clock: Clock;
  readonly #port: VoicePort;
  readonly #sides: TalkSides;
  readonly #line: SealedLine<SoundMessage>;
  readonly #sending: SoundSending;
  readonly #heard = new Map<number, Heard>();
  readonly #off: () => void;
  #endTimers: (() => void) | undefined;
  #capture: Capture | undefined;
  #microphone: Microphone | undefined;
  #isHushed = false;
  #ownPeak = 0;
  #shown = '';

  constructor(connection: LineConnection & { readonly clock: Clock }, port: VoicePort, sides: TalkSides) {
    this.#clock = connection.clock;
    this.#port = port;
    this.#sides = sides;
    this.#line = new SealedLine(connection, voiceChannel);
    this.#sending = new SoundSending(this.#line, this.#clock, VOICE_BITS);
    this.#off = this.#line.listenPlain(
      (from, plain) => this.#hear(from, plain),
      (from) => this.#sides.others().some(({ id }) => id === from.id),
    );
  }

  /** From now on what is said here is heard there, as far as anybody may. */
  open(): void {
    if (this.#capture) return this.setMuted(false);
    this.#microphone = 'open';
    // A port may know at once that there is none.
    const capture = this.#port.openMicrophone(
      (captured) => this.#captured(captured),
      () => this.#lose(),
    );
    if (this.#isWithout) return capture.stop();
    this.#capture = capture;
    this.#say();
    this.#show();
  }
  setMuted(isMuted: boolean): void {
    if (!this.#capture) return;
    this.#capture.setMuted(isMuted);
    this.#microphone = isMuted ? 'muted' : 'open';
    this.#ownPeak = 0;
    this.#say();
    this.#show();
  }
  get isMuted(): boolean {
    return this.#microphone === 'muted';
  }
  /** Nobody is heard, and nobody sends for nothing. */
  setHushed(isHushed: boolean): void {
    this.#isHushed = isHushed;
    if (isHushed) for (const { hearing } of this.#heard.values()) hearing.close();
    this.#say();
    this.#show();
  }

  get state(): TalkState {
    const others = [...this.#heard].map(([seat, { hearing, microphone }]) => ({
      seat,
      microphone,
      peak: hearing.peak,
    }));
    return { microphone: this.#microphone, isHushed: this.#isHushed, ownPeak: this.#ownPeak, others };
  }

  /** Who may take part may have changed: nobody who may not is kept. */
  changed(): void {
    const seats = new Set(this.#sides.others().map(({ seat }) => seat));
    for (const [seat, { hearing }] of this.#heard)
      if (!seats.has(seat)) {
        hearing.close();
        this.#heard.delete(seat);
        this.#sending.forget(seat);
      }
    for (const seat of seats) if (!this.#heard.has(seat)) this.#meet(seat);
    if (!this.#heard.size) this.#rest();
    this.#show();
  }

  /** The microphone is closed, and nobody is heard. */
  stop(): void {
    this.#capture?.stop();
    this.#capture = undefined;
    this.#microphone = undefined;
    this.#ownPeak = 0;
    for (const { hearing } of this.#heard.values()) hearing.close();
    this.#show();
  }

  close(): void {
    this.stop();
    this.#off();
    this.#rest();
    this.listeners.clear();
  }

  /** A call may have said so meanwhile. */
  get #isWithout(): boolean {
    return this.#microphone === 'none';
  }
  #lose(): void {
    this.#microphone = 'none';
    this.#capture?.stop();
    this.#capture = undefined;
    this.#ownPeak = 0;
    this.#say();
    this.#show();
  }

  #meet(seat: number): Heard {
    const made: Heard = { hearing: new SoundHearing(this.#clock, () => this.#port.speaker()), microphone: 'none' };
    this.#heard.set(seat, made);
    this.#sayTo(seat);
    this.#endTimers ??= this.#keepSaying();
    return made;
  }
  #keepSaying(): () => void {
    const ends = [this.#clock.every(SAY_HEARD_MS, () => this.#say()), this.#clock.every(LEVEL_MS, () => this.#show())];
    return () => ends.forEach((end) => end());
  }
  /** With nobody there is nothing to say or to show. */
  #rest(): void {
    this.#endTimers?.();
    this.#endTimers = undefined;
  }

  #hear(from: Participant, plain: Uint8Array): void {
    const one = this.#heard.get(from.seat) ?? this.#meet(from.seat);
    if (plain[0] === WORDS_TAG) {
      const message = unlessUnreadable(() => decodeWords(voiceChannel, plain));
      if (message?.type === 'listen') this.#sending.hear(from.seat, message);
      else if (message?.type === 'microphone') {
        one.microphone = message.is;
        if (message.is === 'open') this.#sides.onOpened?.(from);
      }
      return;
    }
    if (plain[0] !== SOUND_TAG) return;
    // Whoever sends sound has an open microphone, whatever they said.
    this.#sides.onOpened?.(from);
    if (!this.#isHushed) one.hearing.take(plain, from);
  }

  #captured(captured: Captured): void {
    if (!this.#capture || this.#microphone !== 'open') return;
    this.#ownPeak = Math.max(this.#ownPeak, captured.peak);
    this.#sending.tune(this.#capture);
    const others = this.#sides.others();
    this.#sending.send(captured, (seat) => others.some((one) => one.seat === seat));
  }

  #say(): void {
    for (const { seat } of this.#sides.others()) this.#sayTo(seat);
  }
  #sayTo(seat: number): void {
    const report = this.#heard.get(seat)?.hearing.report() ?? { got: 0, lost: 0, lateMs: 0 };
    this.#line.send(seat, { type: 'listen', isOn: !this.#isHushed, ...report });
    if (this.#microphone) this.#line.send(seat, { type: 'microphone', is: this.#microphone });
  }

  #show(): void {
    const now = this.state;
    this.#ownPeak = 0;
    const key = JSON.stringify(now);
    if (key === this.#shown) return;
    this.#shown = key;
    this.listeners.emit('now', now);
  }
}
