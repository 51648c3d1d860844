import { deflateRawSync, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  decodeClear,
  gridFor,
  readPhoto,
  RelayStore,
  TileSource,
  ViewerPicture,
  type SourceUnit,
  type ViewerFeed,
} from './index.ts';

/*
 * The whole way of a picture without a network: a source, a relay, three viewers, and a schedule that changes, scrolls,
 * drags, films, loses, stalls, restarts and comes back as it likes.
 */
const WIDTH = 330;
const HEIGHT = 270;
const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });
const inflate = (bytes: Uint8Array) => inflateRawSync(bytes);

/** A photo codec for tests: it loses the lower bits, and says nothing else. */
const lossy = (rgb: Uint8Array) => rgb.map((value) => value & 0xf0);
const photoOf = (unit: SourceUnit) => {
  const { rect, jpeg } = readPhoto(unit.body);
  const rgba = new Uint8Array(rect.width * rect.height * 4).fill(255);
  for (let i = 0; i < rect.width * rect.height; i++) rgba.set(jpeg.subarray(i * 3, i * 3 + 3), i * 4);
  return { width: rect.width, height: rect.height, rgba };
};

/** Text has a dozen colours, a photo has them all. */
const noise = Uint32Array.from(
  { length: WIDTH * HEIGHT + 5_000 },
  (_, i) => (Math.imul(i + 7, 2_654_435_761) >>> 3) & 0xffffff,
);
const patterns = { photo: noise, text: noise.map((n) => (n % 5 ? 0xffffff : 0x203040 + (n % 9))) };

class Viewer {
  picture = new ViewerPicture(inflate);
  readonly line: SourceUnit[] = [];
  isStalled = false;
  feed: ViewerFeed;

  constructor(relay: RelayStore) {
    this.feed = relay.addViewer();
  }
  arrive(count: number): void {
    for (let i = 0; i < count; i++) {
      const unit = this.line.shift();
      if (!unit) return;
      const before = this.picture.versions.slice();
      this.picture.take({ ...unit, generation: 1 }, unit.kind === 'photo' ? photoOf(unit) : undefined);
      before.forEach((version, tile) => expect(this.picture.versions[tile]).toBeGreaterThanOrEqual(version));
    }
  }
}

class World {
  nowMs = 1_000;
  readonly source: TileSource;
  readonly relay = new RelayStore();
  readonly viewers: Viewer[];
  readonly units = new Map<Uint8Array, SourceUnit>();
  photos: { job: NonNullable<ReturnType<TileSource['takePhotoJob']>> }[] = [];

  constructor() {
    this.source = new TileSource(WIDTH, HEIGHT, { deflate, now: () => this.nowMs });
    this.draw(0, 0, WIDTH, HEIGHT, 'text', 1);
    this.viewers = [new Viewer(this.relay), new Viewer(this.relay), new Viewer(this.relay)];
  }

  draw(x: number, y: number, width: number, height: number, how: 'plain' | 'text' | 'photo', seed: number): void {
    const from = seed % 5_000;
    const fresh =
      how === 'plain'
        ? new Uint32Array(width * height).fill(seed & 0xffffff)
        : patterns[how].subarray(from, from + width * height);
    this.source.put({ x, y, width, height }, fresh);
  }

  /** What a program does that scrolls or is dragged: the same pixels somewhere else. */
  shift(x: number, y: number, width: number, height: number, dx: number, dy: number): void {
    const from = this.source.pixels.slice();
    const fresh = new Uint32Array(width * height);
    for (let row = 0; row < height; row++)
      for (let column = 0; column < width; column++) {
        const [sx, sy] = [x + column - dx, y + row - dy];
        const isIn = sx >= 0 && sy >= 0 && sx < WIDTH && sy < HEIGHT;
        fresh[row * width + column] = isIn ? (from[sy * WIDTH + sx] ?? 0) : 0x778899;
      }
    this.source.put({ x, y, width, height }, fresh);
  }

  send(isLost: boolean): boolean {
    const job = this.source.takePhotoJob();
    if (job) this.photos.push({ job });
    const unit = this.source.next(6_000, { x: 60, y: 60 });
    if (!unit) return false;
    if (!isLost) this.deliver(unit);
    return true;
  }

  finishPhotos(): void {
    for (const { job } of this.photos.splice(0)) this.source.finishPhoto(job, lossy(job.rgb));
  }

  deliver(unit: SourceUnit): void {
    const clear = decodeClear(unit.kind === 'whole' ? 'whole' : 'change', unit.clear, unit.number);
    const bytes = unit.body.slice();
    this.units.set(bytes, unit);
    const viewerOf = (feed: ViewerFeed) => this.viewers.find((v) => v.feed === feed);
    this.relay.put({ clear, number: unit.number, generation: 1, epoch: 1, bytes: () => bytes }, (feed) => {
      const viewer = viewerOf(feed);
      if (!viewer || viewer.isStalled) return false;
      viewer.line.push(unit);
      return true;
    });
    this.ask();
  }

  /** What the relay does when a viewer has room: kept tiles first, then it asks the source. */
  ask(): void {
    for (const viewer of this.viewers) {
      if (viewer.isStalled) continue;
      for (let bytes = this.relay.next(viewer.feed); bytes; bytes = this.relay.next(viewer.feed)) {
        const unit = this.units.get(bytes);
        if (unit) viewer.line.push(unit);
      }
      this.source.want(this.relay.ask(viewer.feed, this.nowMs));
    }
  }

  rejoin(index: number, isResumed: boolean): void {
    const old = this.viewers[index] as Viewer;
    this.relay.removeViewer(old.feed);
    const viewer = new Viewer(this.relay);
    if (isResumed) {
      viewer.picture = old.picture;
      const { grid, versions, generation } = old.picture;
      if (grid) this.relay.holds(viewer.feed, { width: grid.width, height: grid.height, generation, versions });
    }
    this.viewers[index] = viewer;
  }

  /** The source's line was lost: the relay says what it saw, or that it saw nothing. */
  resume(): void {
    const { table } = this.relay;
    if (!table) this.source.wantAll();
    else
      this.source.want([...this.source.versions.keys()].filter((t) => this.source.versions[t] !== table.versions[t]));
  }

  settle(): void {
    for (const viewer of this.viewers) viewer.isStalled = false;
    this.resume();
    for (let round = 0; round < 400; round++) {
      this.nowMs += 2_000;
      this.finishPhotos();
      while (this.send(false)) this.finishPhotos();
      this.ask();
      for (const viewer of this.viewers) viewer.arrive(1_000);
      if (!this.source.hasNews && this.viewers.every((v) => !v.feed.missing.size && !v.line.length)) return;
    }
    throw new Error('it never comes to rest');
  }
}

const x = fc.integer({ min: 0, max: WIDTH - 70 });
const y = fc.integer({ min: 0, max: HEIGHT - 70 });
const side = fc.integer({ min: 1, max: 270 });
const step = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('draw' as const),
      x,
      y,
      w: side,
      h: side,
      how: fc.constantFrom('plain' as const, 'text' as const, 'photo' as const),
      seed: fc.nat(0xffffff),
    }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('shift' as const),
      x,
      y,
      w: side,
      h: side,
      dx: fc.integer({ min: -90, max: 90 }),
      dy: fc.integer({ min: -90, max: 90 }),
      isScroll: fc.boolean(),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('film' as const),
      frames: fc.integer({ min: 2, max: 4 }),
      seed: fc.nat(0xffffff),
    }),
  },
  {
    weight: 8,
    arbitrary: fc.record({
      do: fc.constant('send' as const),
      count: fc.integer({ min: 1, max: 12 }),
      isLost: fc.integer({ min: 0, max: 9 }),
    }),
  },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('arrive' as const),
      viewer: fc.nat(2),
      count: fc.integer({ min: 1, max: 20 }),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({ do: fc.constant('stall' as const), viewer: fc.nat(2), isStalled: fc.boolean() }),
  },
  {
    weight: 1,
    arbitrary: fc.record({ do: fc.constant('rejoin' as const), viewer: fc.nat(2), isResumed: fc.boolean() }),
  },
  { weight: 1, arbitrary: fc.constant({ do: 'relayLost' as const }) },
);

const clip = (at: number, size: number, most: number) => Math.min(size, most - at);

it('converges, in order and within bounds, whatever changes, moves, is lost, slow or comes anew', () => {
  fc.assert(
    fc.property(fc.array(step, { minLength: 8, maxLength: 40, size: 'max' }), (steps) => {
      const world = new World();
      for (const s of steps) {
        world.nowMs += 40;
        if (s.do === 'draw') world.draw(s.x, s.y, clip(s.x, s.w, WIDTH), clip(s.y, s.h, HEIGHT), s.how, s.seed);
        else if (s.do === 'shift')
          world.shift(s.x, s.y, clip(s.x, s.w, WIDTH), clip(s.y, s.h, HEIGHT), s.isScroll ? 0 : s.dx, s.dy);
        else if (s.do === 'film')
          for (let f = 0; f < s.frames; f++) {
            world.nowMs += 40;
            world.draw(20, 20, 250, 200, 'photo', (s.seed % 4_000) + f);
            while (world.send(false));
            world.finishPhotos();
          }
        else if (s.do === 'send') for (let i = 0; i < s.count; i++) world.send(s.isLost === 0);
        else if (s.do === 'arrive') (world.viewers[s.viewer] as Viewer).arrive(s.count);
        else if (s.do === 'stall') (world.viewers[s.viewer] as Viewer).isStalled = s.isStalled;
        else if (s.do === 'rejoin') world.rejoin(s.viewer, s.isResumed);
        else world.relay.clear();
        world.finishPhotos();
        world.ask();
        expect(world.relay.keptBytes).toBeLessThan(WIDTH * HEIGHT * 3 * 2 + 512 * 1024);
      }
      world.settle();
      for (const { picture } of world.viewers) {
        const words = new Uint32Array(picture.rgba.buffer, picture.rgba.byteOffset, WIDTH * HEIGHT);
        const wrong = words.findIndex(
          (p, i) => (((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255)) !== world.source.pixels[i],
        );
        expect(wrong).toBe(-1);
      }
    }),
    runs(),
  );
});

it('is independent: a stalled viewer changes nothing for the others, and catches up by itself', () => {
  const world = new World();
  const run = (isStalled: boolean) => {
    const w = new World();
    (w.viewers[1] as Viewer).isStalled = isStalled;
    const got: number[] = [];
    for (let round = 0; round < 60; round++) {
      w.nowMs += 33;
      w.shift(0, 0, WIDTH, HEIGHT, 0, -7);
      w.draw(0, HEIGHT - 7, WIDTH, 7, 'text', round + 9);
      while (w.send(false));
      const [swift] = w.viewers as [Viewer];
      got.push(swift.line.length);
      swift.arrive(100);
      expect(swift.feed.missing.size).toBe(0);
    }
    return { w, got };
  };
  const calm = run(false);
  const stalled = run(true);
  expect(stalled.got).toEqual(calm.got);
  expect((stalled.w.viewers[1] as Viewer).feed.missing.size).toBe(world.source.grid.tileCount);
  stalled.w.settle();
});

it('gives a newcomer a whole picture while it never stops scrolling, from repairs within their share', () => {
  const world = new World();
  const scroll = (round: number) => {
    world.nowMs += 33;
    world.shift(0, 0, WIDTH, HEIGHT, 0, -7);
    world.draw(0, HEIGHT - 7, WIDTH, 7, 'text', round);
  };
  let [changed, repaired] = [0, 0];
  const pump = () => {
    for (;;) {
      const unit = world.source.next(4_000);
      if (!unit) return;
      const clear = decodeClear(unit.kind === 'whole' ? 'whole' : 'change', unit.clear, unit.number);
      const isRepair = clear.kind === 'whole' && clear.tiles.every((t) => t.version < unit.number);
      if (isRepair) repaired += unit.body.length;
      else changed += unit.body.length;
      world.deliver(unit);
      for (const viewer of world.viewers) viewer.arrive(10);
    }
  };
  for (let round = 0; round < 20; round++) {
    scroll(round);
    pump();
  }
  world.relay.clear();
  world.rejoin(2, false);
  const newcomer = world.viewers[2] as Viewer;
  let rounds = 0;
  for (; rounds < 400 && !newcomer.picture.isComplete; rounds++) {
    scroll(rounds + 100);
    pump();
    world.ask();
  }
  expect(newcomer.picture.isComplete).toBe(true);
  expect(rounds).toBeLessThan(120);
  expect(repaired).toBeGreaterThan(0);
  expect(changed).toBeGreaterThan(0);
});

it('sends a film with loss and what stands still without, and never text', () => {
  const world = new World();
  while (world.send(false));
  const kinds = new Set<string>();
  for (let frame = 0; frame < 12; frame++) {
    world.nowMs += 40;
    world.draw(30, 30, 280, 220, 'photo', frame * 77);
    const job = world.source.takePhotoJob();
    if (job) world.source.finishPhoto(job, lossy(job.rgb));
    for (let unit = world.source.next(60_000); unit; unit = world.source.next(60_000)) {
      kinds.add(unit.kind);
      world.deliver(unit);
    }
  }
  expect(kinds).toContain('photo');
  expect(world.source.isLossy).toBe(true);
  world.nowMs += 399;
  const first = world.source.next(60_000);
  expect(first?.kind, 'refining begins within 400 ms of standing still').toBe('whole');
  if (first) world.deliver(first);
  world.settle();
  expect(world.source.isLossy).toBe(false);
  const text = new World();
  while (text.send(false));
  for (let frame = 0; frame < 12; frame++) {
    text.nowMs += 40;
    text.draw(30, 30, 280, 220, 'text', frame * 77);
    expect(text.source.takePhotoJob()).toBeUndefined();
    while (text.send(false));
  }
});

it('never sends a pixel of what is covered, wherever it moves', () => {
  const secret = 0xc0ffee;
  const world = new World();
  while (world.send(false));
  for (let round = 0; round < 100; round++) {
    const at = { x: (round * 37) % 250, y: (round * 23) % 200, width: 120, height: 90 };
    world.draw(0, 0, WIDTH, HEIGHT, 'text', round % 7);
    world.source.put(at, new Uint32Array(at.width * at.height).fill(secret));
    world.source.cover(at, 0x6b7b7c);
    while (world.send(false));
    const viewer = world.viewers[0] as Viewer;
    viewer.arrive(100);
    const { rgba } = viewer.picture;
    const words = new Uint32Array(rgba.buffer, rgba.byteOffset, WIDTH * HEIGHT);
    expect(words.includes(0xffeeffc0)).toBe(false);
    expect(gridFor(WIDTH, HEIGHT).tileCount).toBe(viewer.picture.versions.length);
  }
});
