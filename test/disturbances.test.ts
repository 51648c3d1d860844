import { freePort, PersonAtDesk, startDesktop } from '@porch/demo';
import { DisturbedSession, House, schedules, SlowLine, type Place } from '@porch/testkit';
import fc from 'fast-check';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const isLong = Boolean(process.env['PORCH_TEST_LONG']);
/** A line that costs nothing until it is cut. */
const GOOD_LINE = { bytesPerSecond: 50_000_000, delayMs: 0 };

/** Thirty schedules of eight seconds each, on a machine that does other things beside. */
const LONG_MS = (isLong ? 90 : 15) * 60_000;

let place: Place;
beforeAll(async () => {
  const port = await freePort();
  const line = await SlowLine.open(`http://127.0.0.1:${port}`, GOOD_LINE);
  const house = await House.open({
    hasRecordsLine: true,
    env: { PORCH_PORT: String(port), PORCH_PUBLIC_URL: line.url },
  });
  const desktop = await startDesktop(house.processes, {
    name: 'a test',
    home: join(house.folder, 'home'),
    programs: 'none',
  });
  if (!house.recordsLine) throw new Error('no line to the records');
  place = { house, records: house.recordsLine, line, desktop, person: await PersonAtDesk.at(desktop.display) };
});
afterAll(async () => {
  place.person.close();
  await place.house.close();
  place.line.close();
});

describe('while everything is killed, cut and frozen', () => {
  it(
    'nothing is lost or doubled, nothing stays pressed, nothing is done after it was taken back, and all come back',
    async () => {
      const backAfterMs: number[] = [];
      await fc.assert(
        fc.asyncProperty(schedules, async (schedule) => {
          const verdict = await (await DisturbedSession.begin(place)).run(schedule);
          expect(verdict.wrong).toEqual([]);
          backAfterMs.push(verdict.backAfterMs);
        }),
        // The whole of a failing one is shown, and can be run again by its seed and path.
        { seed: 20_261_127, numRuns: isLong ? 300 : 30, endOnFailure: true },
      );
      backAfterMs.sort((a, b) => a - b);
      const at = (part: number) => Math.round(backAfterMs[Math.floor(backAfterMs.length * part)] ?? 0);
      process.stdout.write(
        `${backAfterMs.length} schedules; back after ${at(0.5)} ms (half), ${at(0.95)} ms (p95), ${at(0.999)} ms (last)\n`,
      );
    },
    LONG_MS,
  );
});
