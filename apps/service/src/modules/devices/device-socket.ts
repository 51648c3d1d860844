import {
  AppError,
  DEVICE_SILENCE_MS,
  errorCatalogue,
  FromDevice,
  HELLO_MS,
  type ErrorCode,
  type ToDevice,
} from '@porch/wire';
import type { WebSocket } from 'ws';
import { refusalOf } from '../../refusal-of.ts';
import { TokenBucket } from '../../sockets/token-bucket.ts';

/** What a device may say: a word on whether it is in use now and then, and little else. */
const MESSAGES_PER_SECOND = 2;
const MESSAGES_AT_ONCE = 20;
/** A socket that was told to go is cut after this. */
const CLOSE_MS = 1_000;

export type DeviceHello = Extract<FromDevice, { type: 'hello' }>;
export type DeviceWord = Exclude<FromDevice, { type: 'hello' }>;

export interface DeviceSocketOwner {
  /** It says who it is, for the first and only time. What this throws ends the socket. */
  greeted(hello: DeviceHello): Promise<void>;
  said(word: DeviceWord): Promise<void>;
  /** After all that it said was taken. */
  gone(): Promise<void>;
  broke(code: string | undefined): void;
  faulty(error: unknown): void;
}

/** The socket of one device: one message after the other, in order, within its limits and its time. */
export class DeviceSocket {
  readonly #socket: WebSocket;
  readonly #owner: DeviceSocketOwner;
  readonly #bucket = new TokenBucket(MESSAGES_PER_SECOND, MESSAGES_AT_ONCE, () => performance.now());
  readonly #stranger: ReturnType<typeof setTimeout>;
  #isGreeted = false;
  #heardAtMs = performance.now();
  #work: Promise<void> = Promise.resolve();

  constructor(socket: WebSocket, owner: DeviceSocketOwner, onGone: (gone: () => Promise<void>) => void) {
    this.#socket = socket;
    this.#owner = owner;
    this.#stranger = setTimeout(() => this.#fail(new AppError('SILENT')), HELLO_MS);
    const silence = setInterval(() => {
      if (performance.now() - this.#heardAtMs > DEVICE_SILENCE_MS) socket.terminate();
    }, DEVICE_SILENCE_MS / 3);
    socket.on('message', (data: Buffer) => this.#handleMessage(data));
    socket.on('error', (error: Error & { code?: string }) => owner.broke(error.code));
    socket.on('close', () => {
      this.known();
      clearInterval(silence);
      onGone(async () => {
        await this.#work;
        await owner.gone();
      });
    });
  }

  get isOpen(): boolean {
    return this.#socket.readyState === this.#socket.OPEN;
  }

  /** It is somebody: the time that strangers have does not end it. */
  known(): void {
    clearTimeout(this.#stranger);
  }

  send(message: ToDevice): void {
    if (this.isOpen) this.#socket.send(JSON.stringify(message));
  }

  close(code: ErrorCode): void {
    this.#socket.close(errorCatalogue[code].closeCode, code);
  }

  #handleMessage(data: Buffer): void {
    // What comes behind a close is parsed no further.
    if (!this.isOpen) return;
    this.#heardAtMs = performance.now();
    try {
      if (!this.#bucket.take()) throw new AppError('TOO_MANY_MESSAGES');
      const message = parse(data);
      if ((message.type === 'hello') === this.#isGreeted) throw new AppError('OUT_OF_ORDER');
      this.#isGreeted = true;
      this.#work = this.#work
        .then(() => (message.type === 'hello' ? this.#owner.greeted(message) : this.#owner.said(message)))
        .catch((error: unknown) => this.#fail(error));
    } catch (error) {
      this.#fail(error);
    }
  }

  #fail(error: unknown): void {
    const { code } = refusalOf(error);
    if (code === 'INTERNAL') this.#owner.faulty(error);
    this.close(code);
    const timer = setTimeout(() => this.#socket.terminate(), CLOSE_MS);
    this.#socket.once('close', () => clearTimeout(timer));
  }
}

function parse(data: Buffer): FromDevice {
  try {
    return FromDevice.parse(JSON.parse(data.toString()));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}
