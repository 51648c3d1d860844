import type { LiveConnection, OwnScreenSender, PictureLine, Watcher } from '@porch/client';
import { startOf, type Frame, type PictureMessage } from '@porch/wire';
import type { FromShareWorker, ToShareWorker } from './share-messages.ts';

/** What W3C Insertable Streams for media adds, as far as it is used here. */
declare const MediaStreamTrackProcessor: new (init: { track: MediaStreamTrack }) => {
  readable: ReadableStream<VideoFrame>;
};

/** Faster than this nobody reads. */
export const MOST_FRAMES_PER_SECOND = 30;

/** Telephones and some browsers capture nothing, and none does on a page that came unencrypted over a network. */
export const canCapture = 'MediaStreamTrackProcessor' in globalThis && 'mediaDevices' in navigator;
export const canCaptureScreen = canCapture && 'getDisplayMedia' in navigator.mediaDevices;

/** What a browser can capture, as the standard names it. */
const surfaces = ['browser', 'window', 'monitor'] as const;
export type Surface = (typeof surfaces)[number] | 'other';
export const surfaceOf = (track: MediaStreamTrack): Surface =>
  surfaces.find((surface) => surface === track.getSettings().displaySurface) ?? 'other';

/**
 * The page's end of what it shows: found, encoded and sealed in a worker. The page keeps the line, and says who may look.
 * The track is not stopped by it: whoever asked for it does that.
 */
export class PageShare implements OwnScreenSender {
  readonly #connection: LiveConnection;
  readonly #worker: Worker;
  #isClosed = false;

  constructor(
    connection: LiveConnection,
    line: PictureLine,
    { track, name }: { readonly track: MediaStreamTrack; readonly name: string },
    onTrouble: (what: string) => void,
  ) {
    this.#connection = connection;
    this.#worker = new Worker(new URL('./share-worker.ts', import.meta.url), { type: 'module' });
    this.#worker.onmessage = ({ data }: MessageEvent<FromShareWorker>) => {
      // What it had on its way when it was closed is not sent.
      if (this.#isClosed) return;
      if (data.type === 'frame') {
        connection.sendFrame(data.bytes);
        this.room();
      } else if (data.type === 'tell') line.send(data.seat, data.message);
      else onTrouble(data.what);
    };
    this.#worker.onerror = (event) => onTrouble(`The picture stopped: ${event.message}`);
    const frames = new MediaStreamTrackProcessor({ track }).readable;
    const { sessionId, seat, keys } = connection;
    const { lastEpoch } = line;
    this.#post({ type: 'begin', sessionId, seat, sourceStart: startOf(keys), lastEpoch, name, frames }, [
      frames as unknown as Transferable,
    ]);
    this.room();
  }

  setWatchers(watchers: readonly Watcher[]): void {
    this.#post({ type: 'watchers', watchers });
  }
  take(seat: number, message: PictureMessage): void {
    this.#post({ type: 'look', seat, message });
  }
  relay(_frame: Frame, bytes: Uint8Array): void {
    this.#post({ type: 'relay', bytes: bytes.slice() });
  }
  room(): void {
    const { hasRoom, messageBytes, bytesPerSecond } = this.#connection;
    this.#post({ type: 'room', room: { hasRoom, messageBytes, bytesPerSecond } });
  }
  close(): void {
    this.#isClosed = true;
    this.#worker.terminate();
  }

  #post(message: ToShareWorker, transfer: Transferable[] = []): void {
    if (!this.#isClosed) this.#worker.postMessage(message, transfer);
  }
}
