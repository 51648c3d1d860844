import type { Watcher } from '@porch/client';
import type { PictureMessage } from '@porch/wire';

/** What the line can take just now. */
export interface LineRoom {
  readonly hasRoom: boolean;
  readonly messageBytes: number;
  readonly bytesPerSecond: number;
}

export type ToShareWorker =
  | {
      type: 'begin';
      sessionId: string;
      seat: number;
      sourceStart: string;
      lastEpoch: number;
      name: string;
      frames: ReadableStream<VideoFrame>;
    }
  | { type: 'watchers'; watchers: readonly Watcher[] }
  | { type: 'look'; seat: number; message: PictureMessage }
  | { type: 'relay'; bytes: Uint8Array }
  | { type: 'room'; room: LineRoom };

export type FromShareWorker =
  | { type: 'frame'; bytes: Uint8Array }
  | { type: 'tell'; seat: number; message: PictureMessage }
  | { type: 'trouble'; what: string };
