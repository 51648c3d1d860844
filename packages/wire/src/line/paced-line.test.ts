import fc from 'fast-check';
import { runs } from '@porch/testkit/seeds';
import { expect, it } from 'vitest';
import { decodeHandled, encodeHandled, MOST_MESSAGE_BYTES, PacedLine } from './paced-line.ts';

const STEP_MS = 2;
/** No picture message is of just this size. */
const BULK_BYTES = 65_539;

/** A line of one rate and delay, in time of its own: what goes in comes out in order, and is said to be handled. */
class Line {
  nowMs = 1_000;
  delivered = 0;
  bulkSent = 0;
  mostInFlight = 0;
  readonly paced: PacedLine;
  readonly #onTheWay: { bytes: number; endsAtMs: number }[] = [];
  readonly #words: { total: number; atMs: number }[] = [];
  readonly #oneWayMs: number;
  bytesPerMs: number;

  constructor(bytesPerMs: number, roundTripMs: number) {
    this.bytesPerMs = bytesPerMs;
    this.#oneWayMs = roundTripMs / 2;
    this.paced = new PacedLine({
      now: () => this.nowMs,
      onRoom: () => undefined,
      send: (bytes) => {
        const freeAtMs = Math.max(this.nowMs, this.#onTheWay.at(-1)?.endsAtMs ?? 0);
        this.#onTheWay.push({ bytes: bytes.length, endsAtMs: freeAtMs + bytes.length / this.bytesPerMs });
        if (bytes.length === BULK_BYTES) this.bulkSent += bytes.length;
      },
    });
  }

  /** Time goes by; a picture is sent whenever there is room. */
  run(forMs: number, hasPicture: boolean): void {
    for (const untilMs = this.nowMs + forMs; this.nowMs < untilMs; this.nowMs += STEP_MS) {
      while (this.#onTheWay[0] && this.#onTheWay[0].endsAtMs <= this.nowMs) {
        this.delivered += this.#onTheWay.shift()?.bytes ?? 0;
        this.#words.push({ total: this.delivered, atMs: this.nowMs + this.#oneWayMs * 2 });
      }
      while (this.#words[0] && this.#words[0].atMs <= this.nowMs) this.paced.handled(this.#words.shift()?.total ?? 0);
      if (hasPicture) {
        while (this.paced.hasRoom) this.paced.send(new Uint8Array(Math.floor(this.paced.messageBytes)));
        this.paced.noteStarved();
      }
      this.mostInFlight = Math.max(this.mostInFlight, this.paced.inFlightBytes);
    }
  }
}
const lines = fc.record({
  kilobitsPerSecond: fc.integer({ min: 128, max: 20_000 }),
  roundTripMs: fc.integer({ min: 2, max: 400 }),
});
const rateOf = (kilobitsPerSecond: number) => kilobitsPerSecond / 8;

it('fills any line, and keeps no more waiting than the round trip and its bound', () => {
  fc.assert(
    fc.property(lines, ({ kilobitsPerSecond, roundTripMs }) => {
      const rate = rateOf(kilobitsPerSecond);
      const line = new Line(rate, roundTripMs);
      line.run(6_000, true);
      const before = line.delivered;
      line.mostInFlight = 0;
      line.run(3_000, true);
      // A window has a greatest size, so that a line which suddenly slows down has little to bring.
      const possible = Math.min(rate, (384 * 1024) / (roundTripMs + 1));
      expect((line.delivered - before) / 3_000).toBeGreaterThan(possible * 0.7);
      const bound = rate * 1.25 * (roundTripMs + 2 * STEP_MS + MOST_MESSAGE_BYTES / rate + 100) + MOST_MESSAGE_BYTES;
      expect(line.mostInFlight).toBeLessThan(bound * 1.1);
    }),
    runs(),
  );
});

it('gives files what the picture leaves, and a turn now and then when it leaves nothing', () => {
  fc.assert(
    fc.property(lines, ({ kilobitsPerSecond, roundTripMs }) => {
      const line = new Line(rateOf(kilobitsPerSecond), roundTripMs);
      for (let n = 0; n < 6; n++) expect(line.paced.offerBulk(new Uint8Array(BULK_BYTES))).toBe(true);
      line.run(20_000, true);
      expect(line.bulkSent, 'beside a picture that never ends').toBeGreaterThanOrEqual(BULK_BYTES);
      line.run(60_000, false);
      expect(line.bulkSent).toBe(6 * BULK_BYTES);
    }),
    runs(),
  );
});

it('takes sound beside a picture that never ends, and none that would be late', () => {
  fc.assert(
    fc.property(lines, ({ kilobitsPerSecond, roundTripMs }) => {
      const rate = rateOf(kilobitsPerSecond);
      const line = new Line(rate, roundTripMs);
      line.run(6_000, true);
      let [offered, taken] = [0, 0];
      for (let n = 0; n < 100; n++) {
        offered++;
        if (line.paced.offerFresh(new Uint8Array(120))) taken++;
        line.run(20, true);
      }
      expect(taken / offered).toBeGreaterThan(0.9);
      // A line that stands still takes no more than its bound, and 60 ms of what it carried.
      const bound =
        rate * 1.25 * (roundTripMs + 2 * STEP_MS + MOST_MESSAGE_BYTES / rate + 160) + 2 * MOST_MESSAGE_BYTES;
      while (line.paced.offerFresh(new Uint8Array(120)) && line.paced.inFlightBytes < 1e7);
      expect(line.paced.inFlightBytes).toBeLessThan(bound * 1.1);
      expect(line.paced.offerFresh(new Uint8Array(120))).toBe(false);
    }),
    runs(),
  );
});

it('sends nothing that waited and may not go any longer, and what may as before', () => {
  fc.assert(
    fc.property(lines, fc.array(fc.boolean(), { minLength: 1, maxLength: 6 }), (of, mays) => {
      const line = new Line(rateOf(of.kilobitsPerSecond), of.roundTripMs);
      // A picture that has just filled the line makes all of it wait.
      while (line.paced.hasRoom) line.paced.send(new Uint8Array(line.paced.messageBytes));
      let isOver = false;
      const asked: number[] = [];
      mays.forEach((mayStay, n) =>
        line.paced.offerBulk(new Uint8Array(BULK_BYTES), () => {
          asked.push(n);
          return mayStay || !isOver;
        }),
      );
      isOver = true;
      const before = line.bulkSent;
      line.run(60_000, false);
      expect(asked, 'each once, in its turn').toEqual(mays.map((_, n) => n));
      expect(line.bulkSent - before).toBe(mays.filter(Boolean).length * BULK_BYTES);
    }),
    runs(),
  );
});

it('refuses more files than it may hold, and words about bytes that were never sent', () => {
  const line = new Line(1, 50);
  const taken = Array.from({ length: 100 }, () => line.paced.offerBulk(new Uint8Array(BULK_BYTES)));
  expect(taken.filter(Boolean).length * BULK_BYTES).toBeLessThan(1.2 * 1024 * 1024);
  expect(taken.at(-1)).toBe(false);
  const before = line.paced.inFlightBytes;
  line.paced.handled(10 ** 9);
  expect(line.paced.inFlightBytes).toBe(before);
  expect(decodeHandled(encodeHandled(123_456_789_012))).toBe(123_456_789_012);
  expect([decodeHandled(new Uint8Array(7)), decodeHandled(new Uint8Array(8).fill(255))]).toEqual([
    undefined,
    undefined,
  ]);
});
