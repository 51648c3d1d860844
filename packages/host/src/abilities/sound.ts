import { SealedLine, SoundSending, unlessUnreadable, type Capture, type Captured } from '@porch/client';
import { presentOf, type Participant } from '@porch/core';
import { decodeWords, SAY_HEARD_MS, soundChannel, type SoundMessage } from '@porch/wire';
import type { RateSteps } from '@porch/sound';
import type { Lease } from '../consent/held.ts';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { ToldOnce } from '../told-once.ts';
import type { SoundPort } from '../ports/sound-port.ts';

/** Music is whole at 96 kbit/s, speech in a film good at 48, signals are heard at 20. */
const PROGRAM_BITS: RateSteps = [96_000, 48_000, 20_000];

/** Lets technicians hear what programs play here, while they listen. */
export const sound: HostAbility = {
  name: 'sound',
  whyNot: (_permission, ports) => whyWithout(ports, 'sound'),
  warn: ({ words }) => words.sound.warn,
  begin: (kit) => beginWith(kit.ports.sound, (port) => new ProgramsHeard(kit, port)),
};

class ProgramsHeard implements Running {
  readonly #kit: Kit;
  readonly #port: SoundPort;
  readonly #sending: SoundSending;
  readonly #off: () => void;
  #endLooking: (() => void) | undefined;
  /** By seat: the leases of those who listen. */
  readonly #leases = new Map<number, Lease>();
  /** Who has listened since they may. */
  readonly #told: ToldOnce;
  #capture: Pick<Capture, 'setBitrate' | 'stop'> | undefined;

  constructor(kit: Kit, port: SoundPort) {
    this.#kit = kit;
    this.#port = port;
    this.#told = new ToldOnce(kit.held, 'hear-sound');
    const line = new SealedLine<SoundMessage>(kit.connection, soundChannel);
    this.#sending = new SoundSending(line, kit.time, PROGRAM_BITS);
    this.#off = line.listenPlain(
      (from, plain) => this.#hear(from, plain),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('hear-sound', from.signKey),
    );
  }

  changed(): void {
    this.#told.follow();
    for (const [seat, lease] of this.#leases)
      if (lease.state.name === 'over') {
        this.#leases.delete(seat);
        this.#sending.forget(seat);
      }
    this.#follow();
  }

  banner(soFar: BannerLine): BannerLine {
    return this.#capture ? { ...soFar, besides: [...soFar.besides, this.#kit.words.sound.hears] } : soFar;
  }

  close(): void {
    this.#off();
    this.#leases.clear();
    this.#stop();
  }

  #hear(from: Participant, plain: Uint8Array): void {
    const message = unlessUnreadable(() => decodeWords(soundChannel, plain));
    if (message?.type !== 'listen') return;
    const { held } = this.#kit;
    if (!this.#leases.has(from.seat)) this.#leases.set(from.seat, held.during('hear-sound', from.signKey));
    this.#sending.hear(from.seat, message);
    // Ended by the second, so that whoever changes their mind all the time opens nothing all the time.
    if (message.isOn) this.#follow();
  }

  /** Nothing is captured for nobody. */
  #follow(): void {
    const isWanted = this.#sending.seats.some((seat) => this.#leases.get(seat)?.isRunning);
    if (isWanted === (this.#capture !== undefined)) return;
    if (isWanted) this.#begin();
    else this.#stop();
    this.#kit.changed();
  }
  #begin(): void {
    this.#capture = this.#port.capturePrograms((captured) => this.#captured(captured));
    // Whoever went without a word listens no longer.
    this.#endLooking = this.#kit.time.every(SAY_HEARD_MS, () => this.#follow());
    this.#tell();
  }
  #stop(): void {
    this.#endLooking?.();
    this.#capture?.stop();
    this.#endLooking = this.#capture = undefined;
  }

  #captured(captured: Captured): void {
    if (this.#capture) this.#sending.tune(this.#capture);
    this.#sending.send(captured, (seat) => this.#leases.get(seat)?.isRunning === true);
  }

  #tell(): void {
    for (const { id: participantId, seat, signKey } of presentOf(this.#kit.connection.state, 'desk')) {
      if (this.#leases.get(seat)?.isRunning && this.#told.isFirst(signKey))
        this.#kit.report((fact) => ({ type: 'sound/tellHeard', participantId, fact }));
    }
  }
}
