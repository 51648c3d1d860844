import { Listeners } from '@porch/client';
import type { Clock } from '@porch/wire';
import { readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { PulseAudio } from 'pulseaudio.js';

const NAME = 'Zesty Porch';
/** A server that is away may be started again at any moment. */
const AGAIN_MS = 2_000;
/** One that takes the line and never answers is taken for none, and looked for again. */
const ANSWER_MS = 3_000;
/** Said by `pa_subscription_mask`: programs' streams come and go. */
const SINK_INPUTS = 4;
const COOKIE_BYTES = 256;

export interface SoundServerEvents {
  /** The server is there now, or not any longer. */
  there: boolean;
  /** A program began to play something, or ended, or was changed; this one, too. */
  inputs: undefined;
}

/**
 * The sound server of this account, by the native protocol that PulseAudio and PipeWire speak. It is looked for again while
 * it is away.
 */
export class SoundServer {
  readonly listeners = new Listeners<SoundServerEvents>();
  readonly #clock: Clock;
  readonly #env: NodeJS.ProcessEnv;
  #pulse: PulseAudio | undefined;
  #endWaiting: (() => void) | undefined;
  #isClosed = false;
  #playing = 0;

  private constructor(clock: Clock, env: NodeJS.ProcessEnv) {
    this.#clock = clock;
    this.#env = env;
  }

  /** Resolves once it was looked for, found or not. */
  static async open(clock: Clock, env: NodeJS.ProcessEnv = process.env): Promise<SoundServer> {
    const server = new SoundServer(clock, env);
    await server.#connect();
    return server;
  }

  /** Undefined while it is away. */
  get pulse(): PulseAudio | undefined {
    return this.#pulse;
  }

  /** Whether this program plays something itself, or is about to. */
  get isPlaying(): boolean {
    return this.#playing > 0;
  }
  /** Said before the first of it is heard; until the returned function is called. */
  beginPlaying(): () => void {
    this.#playing++;
    this.listeners.emit('inputs', undefined);
    let isOver = false;
    return () => {
      if (isOver) return;
      isOver = true;
      this.#playing--;
      this.listeners.emit('inputs', undefined);
    };
  }

  close(): void {
    this.#isClosed = true;
    this.#endWaiting?.();
    this.listeners.clear();
    const pulse = this.#pulse;
    this.#pulse = undefined;
    if (pulse) drop(pulse);
  }

  async #connect(): Promise<void> {
    const { path, cookie } = placeOf(this.#env);
    const pulse = new PulseAudio({ name: NAME, process: { id: String(process.pid) } }, cookie, path);
    // Of itself it asks for every event there is, and nobody would hear when that fails.
    pulse.off('newListener', pulse._newListener);
    pulse.off('removeListener', pulse._removeListener);
    pulse.on('error', () => this.#lose(pulse));
    try {
      await this.#answered(async () => {
        await pulse.connect();
        await pulse._subscribe(SINK_INPUTS);
      });
    } catch {
      // Not there, or not for us: both may change.
      drop(pulse);
      this.#again();
      return;
    }
    if (this.#isClosed) return drop(pulse);
    pulse.on('event.sink_input', () => this.listeners.emit('inputs', undefined));
    this.#pulse = pulse;
    this.listeners.emit('there', true);
  }

  /** Fails when it takes too long; what comes of it later is nobody's any longer. */
  async #answered(work: () => Promise<void>): Promise<void> {
    let cancel: () => void = () => undefined;
    const tooLong = new Promise<never>((_resolve, reject) => {
      cancel = this.#clock.after(ANSWER_MS, () => reject(new Error('the sound server does not answer')));
    });
    await Promise.race([work(), tooLong]).finally(() => cancel());
  }

  #lose(pulse: PulseAudio): void {
    if (this.#pulse !== pulse) return;
    this.#pulse = undefined;
    drop(pulse);
    this.listeners.emit('there', false);
    this.#again();
  }
  #again(): void {
    if (this.#isClosed) return;
    this.#endWaiting?.();
    this.#endWaiting = this.#clock.after(AGAIN_MS, () => {
      this.#connect().catch(() => this.#again());
    });
  }
}

/** Whatever state it is in: it may have no socket any longer, or one that was never opened. */
function drop(pulse: PulseAudio): void {
  const sock = pulse.sock as { destroy(): void } | undefined;
  sock?.destroy();
}

function placeOf(env: NodeJS.ProcessEnv): { path: string; cookie: Buffer } {
  const runtime =
    env['PULSE_RUNTIME_PATH'] ?? join(env['XDG_RUNTIME_DIR'] ?? `/run/user/${process.getuid?.()}`, 'pulse');
  const path = env['PULSE_SERVER']?.replace(/^unix:/, '') ?? join(runtime, 'native');
  const home = env['HOME'] ?? homedir();
  for (const file of [env['PULSE_COOKIE'], join(home, '.config/pulse/cookie'), join(home, '.pulse-cookie')]) {
    if (!file) continue;
    try {
      return { path, cookie: readFileSync(file) };
    } catch {
      continue; // Where there is none the server asks for none of its own account.
    }
  }
  return { path, cookie: Buffer.alloc(COOKIE_BYTES) };
}
