import { connect, createServer, type Server, type Socket } from 'node:net';

/** What stands between a service and its records, and what a test does to it. */
export class RecordsLine {
  readonly #server: Server;
  readonly #pairs = new Set<readonly [Socket, Socket]>();
  #isFrozen = false;
  #isDown = false;
  #answersToLose = 0;
  /** How many connections pass before one is opened and never answered; undefined: all pass. */
  #passBeforeSilence: number | undefined;
  port = 0;

  private constructor(target: number) {
    this.#server = createServer((near) => {
      if (this.#isDown) {
        near.resetAndDestroy();
        return;
      }
      const far = connect(target, '127.0.0.1');
      const pair = [near, far] as const;
      this.#pairs.add(pair);
      let isLosing = false;
      const end = () => {
        this.#pairs.delete(pair);
        near.destroy();
        far.destroy();
      };
      for (const socket of pair) {
        socket.on('error', end);
        socket.on('close', end);
        if (this.#isFrozen) socket.pause();
      }
      if (this.#passBeforeSilence !== undefined && this.#passBeforeSilence-- === 0) {
        this.#passBeforeSilence = undefined;
        far.pause();
      }
      near.on('data', (bytes) => {
        if (this.#answersToLose > 0 && bytes.includes('COMMIT')) {
          this.#answersToLose--;
          isLosing = true;
        }
        far.write(bytes);
      });
      far.on('data', (bytes) => {
        // It is committed; whoever asked for it never hears so.
        if (isLosing) end();
        else near.write(bytes);
      });
    });
  }

  static async open(target: number): Promise<RecordsLine> {
    const line = new RecordsLine(target);
    await new Promise<void>((resolve) => line.#server.listen(0, '127.0.0.1', resolve));
    line.port = (line.#server.address() as { port: number }).port;
    return line;
  }

  /** The next commits happen, and their answers are lost. */
  loseCommitAnswers(count = 1): void {
    this.#answersToLose = count;
  }
  get answersToLose(): number {
    return this.#answersToLose;
  }

  /** Nothing passes, and nothing says so: as when a disk or a server stalls. */
  freeze(): void {
    this.#isFrozen = true;
    for (const pair of this.#pairs) for (const socket of pair) socket.pause();
  }
  thaw(): void {
    this.#isFrozen = false;
    for (const pair of this.#pairs) for (const socket of pair) socket.resume();
  }

  /** After so many more connections one is opened and never answered, as by a server that is out of breath. */
  leaveOneUnanswered(after: number): void {
    this.#passBeforeSilence = after;
  }
  get hasLeftOneUnanswered(): boolean {
    return this.#passBeforeSilence === undefined;
  }

  /** Every connection is reset, and none is taken. */
  down(): void {
    this.#isDown = true;
    for (const [near] of this.#pairs) near.destroy();
  }
  up(): void {
    this.#isDown = false;
  }

  close(): void {
    this.down();
    this.#server.close();
  }
}
