import { Talk, type TalkState, type VoicePort } from '@porch/client';
import { presentOf, type Participant } from '@porch/core';
import { speechOf } from '@porch/words';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { ToldOnce } from '../told-once.ts';

/** Opens the microphone here while somebody may speak with whoever sits here, and plays what they say. */
export const speaking: HostAbility = {
  name: 'speaking',
  whyNot: (_permission, ports) => whyWithout(ports, 'voice'),
  warn: ({ words, firstName }) => words.speaking.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.voice, (port) => new TalkHere(kit, port)),
};

class TalkHere implements Running {
  readonly #kit: Kit;
  readonly #port: VoicePort;
  readonly #talk: Talk;
  readonly #off: () => void;
  #microphone: TalkState['microphone'];
  /** Of whose microphone the ledger has heard since they may. */
  readonly #told: ToldOnce;

  constructor(kit: Kit, port: VoicePort) {
    this.#kit = kit;
    this.#port = port;
    this.#told = new ToldOnce(kit.held, 'speak-together');
    this.#talk = new Talk(kit.connection, port, {
      others: () => this.#others,
      onOpened: (from) => this.#tellOnce(from.signKey, from.id),
    });
    this.#talk.listeners.on('now', (now) => {
      port.show?.(now);
      if (now.microphone === this.#microphone) return;
      this.#microphone = now.microphone;
      kit.changed();
    });
    this.#off = kit.ports.banner.onMuteWanted(() => this.#talk.setMuted(!this.#talk.isMuted));
  }

  changed(): void {
    const { connection } = this.#kit;
    this.#told.follow(connection.keys.signKey);
    const isAnybodyThere = this.#others.length > 0;
    if (isAnybodyThere && this.#talk.state.microphone === undefined) {
      this.#talk.open();
      if (this.#talk.state.microphone === 'open') this.#tellOnce(connection.keys.signKey, connection.participantId);
    } else if (!isAnybodyThere && this.#talk.state.microphone !== undefined) {
      this.#talk.stop();
      this.#told.forget();
    }
    this.#talk.changed();
  }

  banner(soFar: BannerLine): BannerLine {
    const { microphone } = this.#talk.state;
    const said = this.#said;
    if (!microphone || said === undefined) return soFar;
    const { mute, unmute } = this.#kit.words.speaking;
    const button = microphone === 'none' ? {} : { mute: microphone === 'muted' ? unmute : mute };
    return { ...soFar, besides: [...soFar.besides, said], ...button };
  }
  /** They can speak together without anybody looking. */
  barAlone(): { who: string; what: string } | undefined {
    const what = this.#said;
    if (what === undefined) return undefined;
    const { connection, words } = this.#kit;
    const names = this.#others.map(({ name }) => name ?? words.kernel.technician);
    return { who: speechOf(connection.state.language).list(names), what };
  }

  close(): void {
    this.#off();
    this.#talk.close();
    this.#port.close?.();
  }

  /** What the bar says of the microphone; undefined while it is closed. */
  get #said(): string | undefined {
    const { microphone } = this.#talk.state;
    const { open, muted, without } = this.#kit.words.speaking;
    return microphone && { open, muted, none: without }[microphone];
  }
  get #others(): readonly Participant[] {
    const { connection, held } = this.#kit;
    return presentOf(connection.state, 'desk').filter(({ signKey }) => held.may('speak-together', signKey));
  }

  /** Once for each time that somebody may. */
  #tellOnce(signKey: string, participantId: string): void {
    if (!this.#told.isFirst(signKey)) return;
    this.#kit.report((fact) => ({ type: 'speaking/tellOpened', participantId, fact }));
  }
}
