import { deflateRawSync, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  decodeClearPart,
  decodeTiles,
  encodeUpdate,
  gridFor,
  inflateInPlainCode,
  MAX_TILES_PER_UPDATE,
  PictureError,
  RelayStore,
  TileSource,
  VIEWER_WINDOW_BYTES,
  ViewerPicture,
  type Rect,
  type ViewerFeed,
} from './index.ts';

const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });
const WIDTH = 200;
const HEIGHT = 150;

/** A viewer with a slow or fast line: what was sent to it arrives when the schedule says so. */
class Viewer {
  readonly picture = new ViewerPicture(inflateInPlainCode);
  readonly pixels = new Uint32Array(WIDTH * HEIGHT);
  readonly line: Uint8Array[] = [];
  readonly shown = new Map<number, number>();
  readonly store: RelayStore;
  feed: ViewerFeed;

  constructor(store: RelayStore) {
    this.store = store;
    this.feed = store.addViewer();
  }
  pump(): void {
    for (let bytes = this.store.next(this.feed); bytes; bytes = this.store.next(this.feed)) this.line.push(bytes);
  }
  arrive(count: number, order: number): void {
    for (let i = 0; i < count && this.line.length; i++) {
      const [bytes] = this.line.splice(order % this.line.length, 1);
      if (!bytes) return;
      this.feed.inFlightBytes -= bytes.byteLength;
      for (const { tile, version } of decodeClearPart(bytes).tiles)
        this.shown.set(tile, Math.max(version, this.shown.get(tile) ?? 0));
      for (const { rect, rgba } of this.picture.take(bytes, 1).tiles) {
        const words = new Uint32Array(rgba.buffer);
        for (let y = 0; y < rect.height; y++)
          for (let x = 0; x < rect.width; x++) {
            const p = words[y * rect.width + x] ?? 0;
            this.pixels[(rect.y + y) * WIDTH + rect.x + x] = ((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255);
          }
      }
    }
  }
}

const rect: fc.Arbitrary<Rect> = fc.record({
  x: fc.integer({ min: -20, max: WIDTH }),
  y: fc.integer({ min: -20, max: HEIGHT }),
  width: fc.integer({ min: 1, max: 90 }),
  height: fc.integer({ min: 1, max: 90 }),
});
const step = fc.oneof(
  fc.record({ do: fc.constant('draw' as const), rect, colour: fc.nat(0xffffff), isNoisy: fc.boolean() }),
  fc.record({ do: fc.constant('send' as const), count: fc.nat(3) }),
  fc.record({ do: fc.constant('arrive' as const), viewer: fc.nat(2), count: fc.nat(6), order: fc.nat(5) }),
  fc.record({ do: fc.constant('rejoin' as const), viewer: fc.nat(2) }),
  fc.record({ do: fc.constant('relayLost' as const) }),
);

function draw(source: TileSource, r: Rect, colour: number, isNoisy: boolean): void {
  const fresh = new Uint32Array(r.width * r.height).fill(colour);
  if (isNoisy) fresh.forEach((_, i) => (fresh[i] = (colour + i * 2_654_435_761) & 0xffffff));
  source.put(r, fresh);
}

it('converges: once changes stop, every viewer shows the source pixel for pixel, whatever was slow, lost or came anew', () => {
  fc.assert(
    fc.property(fc.array(step, { minLength: 5, maxLength: 60, size: 'max' }), (steps) => {
      const source = new TileSource(WIDTH, HEIGHT, deflate);
      source.put({ x: 0, y: 0, width: WIDTH, height: HEIGHT }, new Uint32Array(WIDTH * HEIGHT).fill(0x336699));
      source.markKnown();
      const store = new RelayStore();
      const viewers = [new Viewer(store), new Viewer(store), new Viewer(store)];
      const send = () => {
        const update = source.nextUpdate({ x: 10, y: 10 });
        if (!update) return false;
        source.markWanted(store.put(update.payload, decodeClearPart(update.payload), 1));
        viewers.forEach((v) => v.pump());
        return true;
      };
      for (const s of steps) {
        if (s.do === 'draw') draw(source, s.rect, s.colour, s.isNoisy);
        else if (s.do === 'send') for (let i = 0; i < s.count; i++) send();
        else if (s.do === 'relayLost') {
          store.clear();
          source.markAllWanted();
        } else {
          const viewer = viewers[s.viewer] as Viewer;
          if (s.do === 'arrive') {
            viewer.arrive(s.count, s.order);
            viewer.pump();
          } else {
            store.removeViewer(viewer.feed);
            viewers[s.viewer] = new Viewer(store);
            source.markWanted(store.missingTiles);
          }
        }
        for (const v of viewers) expect(v.feed.inFlightBytes).toBeLessThan(VIEWER_WINDOW_BYTES + 512 * 1024);
      }
      source.markWanted(store.missingTiles);
      while (send());
      for (const v of viewers) {
        for (v.pump(); v.line.length; v.pump()) v.arrive(1, 0);
        expect(v.picture.isComplete).toBe(true);
        expect(v.pixels.every((p, i) => p === ((source.pixels[i] ?? 0) & 0xffffff))).toBe(true);
      }
    }),
    runs(),
  );
});

it('never shows an older version of a tile after a newer one', () => {
  const grid = gridFor(64, 64);
  const viewer = new ViewerPicture(inflateInPlainCode);
  const at = (colour: number, version: number) =>
    encodeUpdate(new Uint32Array(4096).fill(colour), grid, [{ tile: 0, version }], deflate);
  expect(viewer.take(at(2, 2), 1).tiles).toHaveLength(1);
  expect(viewer.take(at(1, 1), 1).tiles).toHaveLength(0);
  expect(viewer.take(at(3, 3), 0).tiles, 'an older generation is nothing at all').toHaveLength(0);
});

it('the relay keeps the newest of a tile whatever the order of arrival, and drops the old picture with its size', () => {
  const grid = gridFor(64, 64);
  const store = new RelayStore();
  const feed = store.addViewer();
  const put = (colour: number, version: number, generation = 1) => {
    const payload = encodeUpdate(new Uint32Array(4096).fill(colour), grid, [{ tile: 0, version }], deflate);
    store.put(payload, decodeClearPart(payload), generation);
    return payload;
  };
  const newest = put(2, 2);
  put(1, 1);
  expect(store.next(feed)).toBe(newest);
  expect(store.next(feed)).toBeUndefined();
  put(3, 3, 0);
  expect(store.next(feed), 'an older generation is nothing').toBeUndefined();
  const after = put(4, 4, 2);
  expect([store.next(feed), store.generation, store.missingTiles]).toEqual([after, 2, []]);
});

it('a viewer that takes nothing slows nobody and costs marks only', () => {
  const store = new RelayStore();
  const stalled = store.addViewer();
  const swift = store.addViewer();
  const source = new TileSource(640, 640, deflate);
  const noise = (seed: number) =>
    Uint32Array.from({ length: 640 * 640 }, (_, i) => (i * seed * 2_654_435_761) & 0xffffff);
  for (let round = 1; round <= 12; round++) {
    source.put({ x: 0, y: 0, width: 640, height: 640 }, noise(round));
    source.markKnown();
    for (let update = source.nextUpdate(); update; update = source.nextUpdate()) {
      source.markWanted(store.put(update.payload, decodeClearPart(update.payload), 1));
      for (let bytes = store.next(swift); bytes; bytes = store.next(swift)) swift.inFlightBytes -= bytes.byteLength;
      if (stalled.inFlightBytes === 0) store.next(stalled);
    }
  }
  expect(swift.news.size).toBe(0);
  expect(stalled.news.size).toBeGreaterThan(80);
  expect(store.keptBytes).toBeLessThan(6 * 1024 * 1024);
});

describe('bytes that are no update', () => {
  const grid = gridFor(130, 70);
  const pixels = Uint32Array.from({ length: 130 * 70 }, (_, i) => (i * 7919) & 0xffffff);
  const good = encodeUpdate(
    pixels,
    grid,
    [
      { tile: 0, version: 1 },
      { tile: 2, version: 1 },
      { tile: 5, version: 1 },
    ],
    deflate,
  );
  const read = (bytes: Uint8Array) => decodeTiles(bytes, decodeClearPart(bytes), inflateInPlainCode);
  const onlyPictureError = (bytes: Uint8Array) => {
    try {
      read(bytes);
    } catch (error) {
      expect(error).toBeInstanceOf(PictureError);
    }
  };
  it('are refused with a clear error at every length, flip and size', () => {
    for (let length = 0; length < good.length; length += 7)
      expect(() => read(good.subarray(0, Math.min(length, 40)))).toThrow(PictureError);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(), fc.nat(255), (random, at, value) => {
        onlyPictureError(random);
        const changed = good.slice();
        changed[at % changed.length] = value;
        onlyPictureError(changed);
      }),
      runs(),
    );
    const hostile = good.slice();
    new DataView(hostile.buffer).setUint16(4, MAX_TILES_PER_UPDATE + 1);
    expect(() => read(hostile)).toThrow(PictureError);
    new DataView(hostile.buffer).setUint32(0, 0xffffffff);
    expect(() => read(hostile)).toThrow(PictureError);
  });
  it('and the two ways to inflate agree', () => {
    const clear = decodeClearPart(good);
    expect(decodeTiles(good, clear, (b) => inflateRawSync(b))).toEqual(decodeTiles(good, clear, inflateInPlainCode));
  });
});
