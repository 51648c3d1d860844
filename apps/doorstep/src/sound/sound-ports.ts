import type { WhyNot } from '@porch/core';
import type { HostPorts, OptionalPort } from '@porch/host';
import { ProgramsCapture, ServerVoice, SoundServer } from '@porch/sound-server';
import { realClock } from '@porch/wire';

/** What this account's sound server does for abilities, while it is there. */
export class SoundPorts {
  readonly #server: SoundServer;
  readonly #voice: ServerVoice;
  readonly ports: Pick<HostPorts, 'sound' | 'voice'>;

  private constructor(server: SoundServer) {
    this.#server = server;
    this.#voice = new ServerVoice(server, realClock);
    this.ports = {
      sound: { capturePrograms: (take) => new ProgramsCapture(server, realClock, take) },
      voice: this.#voice,
    };
  }

  static async open(env?: NodeJS.ProcessEnv): Promise<SoundPorts> {
    return new SoundPorts(await SoundServer.open(realClock, env));
  }

  get missing(): Partial<Record<OptionalPort, WhyNot>> {
    return this.#server.pulse ? {} : { sound: 'computer-cannot', voice: 'computer-cannot' };
  }
  onMissingChanged(listener: () => void): () => void {
    return this.#server.listeners.on('there', listener);
  }

  close(): void {
    this.#voice.close();
    this.#server.close();
  }
}
