import { decodeFrame, type Channel } from '@porch/wire';
import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net';

/**
 * A way to the service on which everything that leaves a program is looked at: how many binary messages of which channel
 * (WebSocket framing of RFC 6455, 5.2). It can be held up, and goes on counting what would have left.
 */
export class FrameTap {
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();
  readonly #sent = new Map<Channel, number>();
  readonly #waiting: { bytes: Buffer; to: Socket }[] = [];
  #isHeld = false;

  private constructor(target: URL) {
    this.#server = createServer((near) => {
      const far = connect(Number(target.port), target.hostname);
      const reader = new FrameReader((bytes) => this.#count(bytes));
      near.on('data', (bytes: Buffer) => {
        reader.take(bytes);
        if (this.#isHeld) this.#waiting.push({ bytes, to: far });
        else far.write(bytes);
      });
      far.on('data', (bytes: Buffer) => near.write(bytes));
      for (const [socket, other] of [
        [near, far],
        [far, near],
      ] as const) {
        this.#sockets.add(socket);
        socket.on('close', () => {
          this.#sockets.delete(socket);
          other.destroy();
        });
        socket.on('error', () => other.destroy());
      }
    });
  }

  static async open(target: string): Promise<FrameTap> {
    const tap = new FrameTap(new URL(target));
    await new Promise<void>((resolve) => tap.#server.listen(0, '127.0.0.1', resolve));
    return tap;
  }

  get url(): string {
    return `http://127.0.0.1:${(this.#server.address() as AddressInfo).port}`;
  }
  /** Messages of these channels that have left the program. */
  left(...channels: Channel[]): number {
    return channels.reduce((sum, channel) => sum + (this.#sent.get(channel) ?? 0), 0);
  }

  /** What leaves from now on comes nowhere until `letGo`. */
  hold(): void {
    this.#isHeld = true;
  }
  letGo(): void {
    this.#isHeld = false;
    for (const { bytes, to } of this.#waiting.splice(0)) to.write(bytes);
  }

  async close(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    await new Promise((resolve) => this.#server.close(resolve));
  }

  #count(bytes: Buffer): void {
    const { channel } = decodeFrame(bytes);
    this.#sent.set(channel, (this.#sent.get(channel) ?? 0) + 1);
  }
}

const BINARY = 2;
const HEAD_END = '\r\n\r\n';

/** Finds the binary messages in what one program sends, once it has asked for a WebSocket. */
class FrameReader {
  readonly #onBinary: (bytes: Buffer) => void;
  #rest = Buffer.alloc(0);
  #isWebSocket = false;

  constructor(onBinary: (bytes: Buffer) => void) {
    this.#onBinary = onBinary;
  }

  take(bytes: Buffer): void {
    this.#rest = Buffer.concat([this.#rest, bytes]);
    if (!this.#isWebSocket) {
      const end = this.#rest.indexOf(HEAD_END);
      if (end < 0) return;
      const head = this.#rest.subarray(0, end).toString('latin1');
      this.#isWebSocket = /^upgrade: websocket$/im.test(head);
      this.#rest = this.#isWebSocket ? this.#rest.subarray(end + HEAD_END.length) : Buffer.alloc(0);
    }
    while (this.#isWebSocket && this.#takeOne());
  }

  #takeOne(): boolean {
    const bytes = this.#rest;
    const [first = 0, second = 0] = bytes;
    const short = second & 0x7f;
    const lengthBytes = short === 126 ? 2 : short === 127 ? 8 : 0;
    const headBytes = 2 + lengthBytes + 4;
    if (bytes.length < headBytes) return false;
    const length = lengthBytes === 2 ? bytes.readUInt16BE(2) : lengthBytes ? Number(bytes.readBigUInt64BE(2)) : short;
    if (bytes.length < headBytes + length) return false;
    const mask = bytes.subarray(headBytes - 4, headBytes);
    if ((first & 0x0f) === BINARY)
      this.#onBinary(Buffer.from(bytes.subarray(headBytes, headBytes + length).map((b, i) => b ^ (mask[i & 3] ?? 0))));
    this.#rest = bytes.subarray(headBytes + length);
    return true;
  }
}
