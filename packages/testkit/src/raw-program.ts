import { helloOf, makeKeys, PROTOCOL_VERSION, type ConnectionPass, type ParticipantKeys } from '@porch/wire';
import { WebSocket } from 'ws';
import { until } from './until.ts';

export interface Told {
  readonly type: string;
  readonly [field: string]: unknown;
}

/** A program without manners: it says hello as it is told to, keeps every byte that reaches it, and hears how it was closed. */
export class RawProgram {
  readonly socket: WebSocket;
  readonly told: Told[] = [];
  /** Everything that came, as it came. */
  readonly bytes: Buffer[] = [];
  readonly closed: Promise<{ code: number; reason: string }>;

  constructor(
    url: string,
    options: { readonly headers?: Record<string, string>; readonly localAddress?: string } = {},
  ) {
    this.socket = new WebSocket(url, options);
    this.socket.on('message', (data: Buffer, isBinary) => {
      this.bytes.push(data);
      if (!isBinary) this.told.push(JSON.parse(data.toString()) as Told);
    });
    this.closed = new Promise((resolve) => {
      this.socket.on('error', () => undefined);
      this.socket.once('close', (code, reason) => resolve({ code, reason: reason.toString() }));
    });
  }

  /** The service speaks first: what hello is to sign. */
  async nonce(): Promise<string> {
    return until('the challenge', () => this.told.find((m) => m.type === 'challenge')?.['nonce'] as string | undefined);
  }

  /** What would be said: whole and true but for what `change` says otherwise. */
  async helloWith(pass: ConnectionPass, keys: ParticipantKeys = makeKeys(), change: object = {}): Promise<string> {
    return JSON.stringify({
      type: 'hello',
      version: PROTOCOL_VERSION,
      ...helloOf(keys, await this.nonce(), pass),
      lastSeq: 0,
      lastHash: '00',
      ...change,
    });
  }

  /** Says hello and waits until it has heard everything. */
  async comeIn(pass: ConnectionPass, keys: ParticipantKeys = makeKeys()): Promise<this> {
    this.socket.send(await this.helloWith(pass, keys));
    await until('to be let in', () => this.told.some((m) => m.type === 'caughtUp'));
    return this;
  }

  say(message: object): void {
    this.socket.send(JSON.stringify(message));
  }
  command(command: object, id: string = crypto.randomUUID()): string {
    this.say({ type: 'command', id, command });
    return id;
  }
  async answerTo(id: string): Promise<Told> {
    return until('an answer', () =>
      this.told.find((m) => (m.type === 'accepted' || m.type === 'refused') && m['id'] === id),
    );
  }
}
