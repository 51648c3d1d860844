import { deflateRawSync } from 'node:zlib';
import {
  decodeAck,
  decodeWanted,
  encodeCursorShape,
  encodePoint,
  PictureError,
  TileSource,
  type CursorShape,
  type Rect,
  type SameRun,
} from '@porch/screen';
import type { LiveConnection } from '@porch/client';
import { encodeFrame, EVERY_VIEWER, frameKinds, type Channel } from '@porch/wire';
import type { Desktop } from '../desktop/desktop.ts';

/** What may be on the way to the relay before it says that it has it. Beyond it, changes only mark tiles. */
const WINDOW_BYTES = 384 * 1024;
/** How many updates are remembered for telling how old a technician's picture is. */
const REMEMBERED_UPDATES = 512;

const sameRun: SameRun = (a, aStart, b, bStart, length) =>
  Buffer.compare(
    Buffer.from(a.buffer, a.byteOffset + aStart * 4, length * 4),
    Buffer.from(b.buffer, b.byteOffset + bStart * 4, length * 4),
  ) === 0;
const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });

/** Sends one display's picture while somebody is allowed to look and does. */
export class PictureSender {
  readonly #connection: LiveConnection;
  readonly #desktop: Desktop;
  readonly #offs: (() => void)[];
  #stopWatching: (() => void) | undefined;
  #isStarting = false;
  #isWanted = false;
  #source: TileSource | undefined;
  #generation = 0;
  #inFlightBytes = 0;
  #focus: { x: number; y: number } | undefined;
  #cursorShape: CursorShape | undefined;
  readonly #sentAtMs = new Map<number, number>();

  constructor(connection: LiveConnection, desktop: Desktop) {
    this.#connection = connection;
    this.#desktop = desktop;
    this.#offs = [
      connection.on('frame', ({ frame }) => {
        if (frame.channel !== 'screen' || frame.senderSeat !== 0) return;
        try {
          if (frame.kind === frameKinds.screen.paintedAck)
            this.#inFlightBytes = Math.max(0, this.#inFlightBytes - decodeAck(frame.payload));
          else this.#sendAgain(decodeWanted(frame.payload));
        } catch (error) {
          if (!(error instanceof PictureError)) throw error;
        }
        this.#pump();
      }),
      connection.on('status', () => {
        this.#inFlightBytes = 0;
      }),
    ];
  }

  get generation(): number {
    return this.#generation;
  }

  /** When a newer update than this one was sent; undefined while it is the newest. */
  replacedAtMs(update: number): number | undefined {
    const newest = this.#source?.updateNumber ?? 0;
    if (update >= newest) return undefined;
    return this.#sentAtMs.get(update + 1) ?? 0;
  }

  /** The one switch: true only while a grant of ours holds and somebody watches. */
  async setWanted(isWanted: boolean): Promise<void> {
    this.#isWanted = isWanted;
    if (isWanted && !this.#stopWatching && !this.#isStarting) {
      this.#isStarting = true;
      try {
        this.#stopWatching = await this.#desktop.watchScreen(
          {
            onPixels: (pieces, isWhole) => this.#takePixels(pieces, isWhole),
            onSize: (width, height) => this.#takeSize(width, height),
            onCursorShape: (shape) => {
              this.#cursorShape = shape;
              this.#sendCursor(frameKinds.cursor.shape, encodeCursorShape(shape));
            },
            onCursorPosition: (x, y) => {
              this.#focus = { x, y };
              this.#sendCursor(frameKinds.cursor.position, encodePoint(x, y));
            },
          },
          () => this.#inFlightBytes < WINDOW_BYTES,
        );
      } finally {
        this.#isStarting = false;
      }
      // It may have been taken back while the watch began.
      if (!this.#isWanted) this.#stop();
    } else if (!isWanted) this.#stop();
  }

  close(): void {
    this.#isWanted = false;
    this.#stop();
    this.#offs.forEach((off) => off());
  }

  #stop(): void {
    this.#stopWatching?.();
    this.#stopWatching = undefined;
  }

  #takeSize(width: number, height: number): void {
    const first = (this.#source?.updateNumber ?? 0) + 1;
    this.#source = new TileSource(width, height, deflate, sameRun, first);
    this.#generation++;
  }

  #takePixels(pieces: readonly { rect: Rect; pixels: Uint32Array }[], isWhole: boolean): void {
    for (const { rect, pixels } of pieces) this.#source?.put(rect, pixels);
    if (isWhole) this.#source?.markKnown();
    this.#pump();
  }

  #sendAgain(tiles: readonly number[]): void {
    if (tiles.length) this.#source?.markWanted(tiles);
    else this.#source?.markAllWanted();
    if (this.#cursorShape) this.#sendCursor(frameKinds.cursor.shape, encodeCursorShape(this.#cursorShape));
    if (this.#focus) this.#sendCursor(frameKinds.cursor.position, encodePoint(this.#focus.x, this.#focus.y));
  }

  #pump(): void {
    while (this.#isWanted && this.#source && this.#inFlightBytes < WINDOW_BYTES && this.#connection.status === 'live') {
      const update = this.#source.nextUpdate(this.#focus);
      if (!update) return;
      const bytes = this.#frame('screen', frameKinds.screen.update, update.payload, BigInt(update.number));
      if (!this.#connection.sendFrame(bytes)) return;
      this.#inFlightBytes += bytes.byteLength;
      this.#sentAtMs.set(update.number, Date.now());
      this.#sentAtMs.delete(update.number - REMEMBERED_UPDATES);
    }
  }

  #sendCursor(kind: number, payload: Uint8Array): void {
    if (this.#isWanted) this.#connection.sendFrame(this.#frame('cursor', kind, payload, 0n));
  }

  #frame(channel: Channel, kind: number, payload: Uint8Array, counter: bigint): Uint8Array {
    return encodeFrame({
      channel,
      kind,
      display: 0,
      senderSeat: this.#connection.seat,
      receiverSeat: EVERY_VIEWER,
      epoch: 0,
      displayGeneration: this.#generation,
      counter,
      payload,
    });
  }
}
