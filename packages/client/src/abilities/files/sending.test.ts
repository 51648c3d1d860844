import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Sending } from './sending.ts';

interface Way {
  readonly bytesPerMs: number;
  /** Each way. */
  readonly delayMs: number;
}

/** A file over a way that carries so much and takes so long, by a clock of its own: how long, and what waited at most. */
async function sent(way: Way, sizeBytes: number): Promise<{ tookMs: number; mostWaitingMs: number }> {
  let nowMs = 0;
  let freeAtMs = 0;
  let mostWaitingMs = 0;
  let acked = 0;
  const arriving: { atMs: number; end: number }[] = [];
  const sending = new Sending(
    {
      name: 'sailings.db',
      sizeBytes,
      read: (_offset: number, length: number) => Promise.resolve(new Uint8Array(length)),
    },
    1,
    {
      nowMs: () => nowMs,
      isWanted: () => true,
      send: (offset, bytes) => {
        freeAtMs = Math.max(freeAtMs, nowMs) + bytes.length / way.bytesPerMs;
        mostWaitingMs = Math.max(mostWaitingMs, freeAtMs - nowMs);
        arriving.push({ atMs: freeAtMs + 2 * way.delayMs, end: offset + bytes.length });
        return true;
      },
    },
  );
  sending.from(0);
  await sending.pump();
  while (acked < sizeBytes) {
    const next = arriving.shift();
    if (!next) throw new Error('nothing is on the way, and the file is not there');
    nowMs = next.atMs;
    acked = next.end;
    sending.acknowledged(acked);
    await sending.pump();
  }
  return { tookMs: nowMs, mostWaitingMs };
}

const way = fc.record({
  // From a telephone in a tunnel to 4 MB a second, from the next room to round the world by satellite.
  bytesPerMs: fc.double({ min: 16, max: 4_000, noNaN: true }),
  delayMs: fc.integer({ min: 1, max: 750 }),
});

describe('a file on its way', () => {
  it('fills a way of any length within what may be on it, and lets no more than a good second of it wait', async () => {
    await fc.assert(
      fc.asyncProperty(way, async (of) => {
        const thereAndBackMs = 2 * of.delayMs;
        // What may be on the way at most bounds how fast a fast and long one is.
        const bytesPerMs = Math.min(of.bytesPerMs, (768 * 1024) / thereAndBackMs);
        const sizeBytes = Math.round(Math.max(200_000, bytesPerMs * 40_000));
        const { tookMs, mostWaitingMs } = await sent(of, sizeBytes);
        const idealMs = sizeBytes / bytesPerMs;
        expect(idealMs / tookMs, `of ${idealMs.toFixed(0)} ms`).toBeGreaterThan(0.6);
        // What it may hold at least, whatever the way is.
        expect(mostWaitingMs).toBeLessThan(Math.max(1_500, (2 * 16 * 1024) / of.bytesPerMs));
      }),
      runs(),
    );
  });

  it('goes faster than it began over a way of a second and a half', async () => {
    const { tookMs } = await sent({ bytesPerMs: 1_000, delayMs: 750 }, 8_000_000);
    expect(tookMs).toBeLessThan(40_000);
  });
});
