import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net';

export interface LineQuality {
  readonly bytesPerSecond: number;
  /** Each way. */
  readonly delayMs: number;
}

/** One direction of a line: what is sent waits for what was sent before, and then travels. */
class Direction {
  readonly #quality: LineQuality;
  readonly #isStalled: () => boolean;
  #freeAtMs = 0;
  #waiting: { bytes: Buffer; to: Socket }[] = [];
  readonly #travelling: { bytes: Buffer; to: Socket }[] = [];
  #queues: number[] = [];

  constructor(quality: LineQuality, isStalled: () => boolean) {
    this.#quality = quality;
    this.#isStalled = isStalled;
  }

  /** How many bytes waited for the line when something came to it: so much in this part of all cases, since `forget`. */
  queuedBytes(part: number): number {
    const sorted = [...this.#queues].sort((a, b) => a - b);
    return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * part))] ?? 0;
  }
  forget(): void {
    this.#queues = [];
  }

  send(bytes: Buffer, to: Socket): void {
    if (this.#isStalled()) this.#waiting.push({ bytes, to });
    else this.#pace(bytes, to);
  }

  resume(): void {
    for (const { bytes, to } of this.#waiting.splice(0)) this.#pace(bytes, to);
  }

  #pace(bytes: Buffer, to: Socket): void {
    const nowMs = performance.now();
    this.#freeAtMs = Math.max(nowMs, this.#freeAtMs) + (bytes.length / this.#quality.bytesPerSecond) * 1000;
    const sentMs = this.#freeAtMs - nowMs;
    // By the clock, since timers of a busy process are late.
    this.#queues.push((sentMs / 1000) * this.#quality.bytesPerSecond);
    this.#travelling.push({ bytes, to });
    // Whichever timer comes first takes what was sent first: two that are due together have no order of their own.
    setTimeout(() => {
      const first = this.#travelling.shift();
      if (first?.to.writable) first.to.write(first.bytes);
    }, sentMs + this.#quality.delayMs);
  }
}

/** A bad line to a service: so many bytes a second, so much delay, stalls and cuts when it is told to. */
export class SlowLine {
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();
  readonly down: Direction;
  readonly up: Direction;
  #isStalled = false;
  #isDown = false;
  #port = 0;

  private constructor(target: URL, quality: LineQuality) {
    this.down = new Direction(quality, () => this.#isStalled);
    this.up = new Direction(quality, () => this.#isStalled);
    this.#server = createServer((near) => {
      if (this.#isDown) {
        near.destroy();
        return;
      }
      const far = connect(Number(target.port), target.hostname);
      for (const [socket, other, direction] of [
        [near, far, this.up],
        [far, near, this.down],
      ] as const) {
        this.#sockets.add(socket);
        // Small pieces, so that what is sent later does not wait for a large one to arrive whole.
        socket.on('data', (bytes: Buffer) => {
          for (let at = 0; at < bytes.length; at += 512) direction.send(bytes.subarray(at, at + 512), other);
        });
        socket.on('close', () => {
          this.#sockets.delete(socket);
          other.destroy();
        });
        socket.on('error', () => other.destroy());
      }
    });
  }

  static async open(target: string, quality: LineQuality): Promise<SlowLine> {
    const line = new SlowLine(new URL(target), quality);
    await new Promise<void>((resolve) => line.#server.listen(0, '127.0.0.1', resolve));
    // Kept, since who reconnects asks for it after the line was closed too.
    line.#port = (line.#server.address() as AddressInfo).port;
    return line;
  }

  get url(): string {
    return `http://127.0.0.1:${this.#port}`;
  }
  /** The same address, over this line. */
  over = (url: string): string => {
    const on = new URL(url);
    on.port = String(this.#port);
    return on.href;
  };

  stall(): void {
    this.#isStalled = true;
  }
  resume(): void {
    this.#isStalled = false;
    this.down.resume();
    this.up.resume();
  }
  /** Gone: what is there breaks, and nothing new comes through. */
  cut(): void {
    this.#isDown = true;
    for (const socket of this.#sockets) socket.destroy();
  }
  mend(): void {
    this.#isDown = false;
  }
  close(): void {
    this.cut();
    this.#server.close();
  }
}
