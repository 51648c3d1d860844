import type { CameraPicture } from '@porch/client';
import { encodeCameraFrame, LOOKING_MS, type CameraMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import { CameraPace } from './pace.ts';

/** On the way at once to one viewer: the line is never empty, and what is seen never old. */
const MOST_ON_THE_WAY = 2;
/** What has not arrived by then never will: the line was another one. */
const LOST_MS = 4_000;
/** As fast as a hand moves a camera; more is bytes for nothing. */
const LEAST_GAP_MS = 80;
const SAY_AGAIN_MS = 5_000;
const MOST_PIECE_BYTES = 16 * 1024;
const LEAST_PIECE_BYTES = 1024;

interface Line {
  /** How large a message may be for what comes behind it not to wait long. */
  readonly messageBytes?: number | undefined;
  send(plain: Uint8Array, may: () => boolean): boolean;
}

/** One who looks through the camera: what is on the way to them, and how it gets on. */
export class CameraViewer {
  readonly seat: number;
  readonly lease: Lease;
  readonly pace = new CameraPace();
  #told: { readonly now: string; readonly atMs: number } | undefined;
  #heardAtMs: number;
  #number = 0;
  #sentAtMs = -Infinity;
  #onTheWay: { readonly number: number; readonly longestPixels: number; readonly atMs: number }[] = [];

  constructor(seat: number, lease: Lease, nowMs: number) {
    this.seat = seat;
    this.lease = lease;
    this.#heardAtMs = nowMs;
  }

  isGone(nowMs: number): boolean {
    return nowMs - this.#heardAtMs > LOOKING_MS || this.lease.state.name === 'over';
  }

  /** Says that they have everything up to this one. */
  hear(got: number, nowMs: number): void {
    this.#heardAtMs = nowMs;
    const [arrived, left] = [
      this.#onTheWay.filter(({ number }) => number <= got),
      this.#onTheWay.filter(({ number }) => number > got),
    ];
    for (const { longestPixels, atMs } of arrived) this.pace.arrived(longestPixels, nowMs - atMs);
    this.#onTheWay = left.filter(({ atMs }) => nowMs - atMs < LOST_MS);
  }

  /** Tells them how it stands, when that is new to them, or was said long ago. */
  tell(message: CameraMessage, nowMs: number, send: () => boolean): void {
    const now = JSON.stringify(message);
    if (this.#told?.now === now && nowMs - this.#told.atMs < SAY_AGAIN_MS) return;
    if (send()) this.#told = { now, atMs: nowMs };
  }

  /** When they can take the next; undefined: not before something has arrived. */
  readyAtMs(): number | undefined {
    if (!this.lease.isRunning || this.#onTheWay.length >= MOST_ON_THE_WAY) return undefined;
    return this.#sentAtMs + LEAST_GAP_MS;
  }

  /** False when the line takes no more. Nothing of it goes once the lease does not run. */
  send({ width, height, jpeg }: CameraPicture, longestPixels: number, nowMs: number, line: Line): boolean {
    const number = ++this.#number;
    this.#sentAtMs = nowMs;
    this.#onTheWay.push({ number, longestPixels, atMs: nowMs });
    const may = () => this.lease.isRunning;
    const most = Math.floor(Math.min(MOST_PIECE_BYTES, line.messageBytes ?? MOST_PIECE_BYTES));
    const pieceBytes = Math.max(LEAST_PIECE_BYTES, most);
    for (let offset = 0; offset < jpeg.length; offset += pieceBytes) {
      const bytes = jpeg.subarray(offset, offset + pieceBytes);
      const piece = { number, width, height, sizeBytes: jpeg.length, offset, bytes };
      if (!may() || !line.send(encodeCameraFrame(piece), may)) return false;
    }
    return true;
  }
}
