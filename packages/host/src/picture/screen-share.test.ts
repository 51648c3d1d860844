import { runs } from '@porch/testkit/seeds';
import { decodeCheckpoint, decodeFrame, frameKinds, type PictureMessage } from '@porch/wire';
import fc from 'fast-check';
import { deflateRawSync } from 'node:zlib';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { ScreenShare } from './screen-share.ts';
import type { ScreenSource, ScreenWatcher } from './screen-source.ts';
import type { OpenContent } from '@porch/wire';
import type { SharePort } from './share-port.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

const SIZE = { width: 256, height: 192 };
const picture = {
  rect: { x: 0, y: 0, ...SIZE },
  pixels: new Uint32Array(SIZE.width * SIZE.height).map((_, i) => (i * 2654435761) & 0xffffff),
  covered: [],
};

/** A screen that is grabbed when a test says so, and a line with as much room as it says. */
class Played {
  readonly share: ScreenShare;
  readonly sent: { isCheckpoint: boolean; nonces: string[] }[] = [];
  room = Infinity;
  isFrozen = false;
  #watcher: ScreenWatcher | undefined;
  #mayGrab = () => false;

  constructor() {
    const screen: ScreenSource = {
      size: () => SIZE,
      watchScreen: (watcher, mayGrab) => {
        this.#watcher = watcher;
        this.#mayGrab = mayGrab;
        watcher.onMonitors([{ name: 'One', rect: picture.rect }]);
        return Promise.resolve(() => (this.#watcher = undefined));
      },
      answers: () => (this.isFrozen ? new Promise(() => undefined) : Promise.resolve()),
      captureAll: () => undefined,
      hideWallpaper: () => Promise.resolve(),
      isWallpaperHidden: false,
    };
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- the getter below needs the room of the moment
    const played = this;
    const port: SharePort = {
      sessionId: 'a session',
      seat: 1,
      sourceStart: 'a start',
      lastEpoch: 0,
      get hasRoom() {
        return played.room > 0;
      },
      messageBytes: 8_192,
      bytesPerSecond: 1_000_000,
      send: (content) => this.#take(content),
      tell: () => true,
    };
    const fail = (error: unknown) => {
      throw error as Error;
    };
    this.share = new ScreenShare(
      port,
      screen,
      { deflate: (bytes) => deflateRawSync(bytes), encodeJpeg: undefined },
      fail,
    );
  }

  watch = (seats: readonly number[]) =>
    this.share.setWatchers(seats.map((seat) => ({ seat, start: `start ${seat}`, displays: [0] })));
  ask(seat: number, nonce: string): void {
    const challenge: PictureMessage = { type: 'challenge', nonce, display: 0, needsTable: true };
    this.share.take(seat, challenge);
  }
  grab(): void {
    if (this.#mayGrab()) this.#watcher?.onPixels([picture]);
  }
  get echoed(): string[] {
    return this.sent.flatMap((s) => s.nonces);
  }

  #take({ header, plain }: OpenContent): boolean {
    const { channel, kind } = decodeFrame(header);
    if (channel !== 'screen') return true;
    const isCheckpoint = kind === frameKinds.screen.checkpoint;
    if (!isCheckpoint) this.room--;
    this.sent.push({ isCheckpoint, nonces: isCheckpoint ? decodeCheckpoint(plain).echoes.map((e) => e.nonce) : [] });
    return true;
  }
}
const turn = () => vi.advanceTimersByTimeAsync(0);

it('vouches for a newcomer’s picture as soon as it is whole, in whatever order things come, and once', async () => {
  const steps = fc.shuffledSubarray(['watch', 'ask', 'ask again', 'grab', 'grab', 'room', 'other'], { minLength: 7 });
  await fc.assert(
    fc.asyncProperty(steps, fc.integer({ min: 0, max: 4 }), async (order, room) => {
      const p = new Played();
      p.room = room;
      let seats: number[] = [];
      for (const step of order) {
        if (step === 'watch') await p.watch((seats = [...seats, 2]));
        else if (step === 'other') await p.watch((seats = [...seats, 3]));
        else if (step.startsWith('ask')) p.ask(2, (step === 'ask' ? 'a' : 'b').repeat(16));
        else if (step === 'grab') p.grab();
        else p.room = Infinity;
        await turn();
      }
      p.grab();
      p.share.pump();
      await turn();
      // No second has gone by, and everything is there: the question, the right to look, and the whole picture.
      expect(p.echoed).toHaveLength(1);
      p.share.close();
    }),
    runs(),
  );
});

it('leaves every later question to the next round, and answers none while the screen stands still', async () => {
  const p = new Played();
  p.isFrozen = true;
  await p.watch([2]);
  p.ask(2, 'a'.repeat(16));
  p.grab();
  await vi.advanceTimersByTimeAsync(5_000);
  expect(p.echoed).toEqual([]);
  p.share.close();

  const q = new Played();
  await q.watch([2]);
  q.ask(2, 'a'.repeat(16));
  q.grab();
  await turn();
  for (let i = 0; i < 50; i++) q.ask(2, String(i).padStart(16, '0'));
  await turn();
  expect(q.echoed).toEqual(['a'.repeat(16)]);
  await vi.advanceTimersByTimeAsync(1_000);
  expect(q.echoed).toEqual(['a'.repeat(16), '49'.padStart(16, '0')]);
  q.share.close();
});
