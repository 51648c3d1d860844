import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareReports } from './compare.ts';
import { healthOf, isFault } from './health.ts';
import { SystemReport, type ProgramChange, type ReportParts } from './report.ts';

const DAY_MS = 86_400_000;
const NOW_MS = 1_800_000_000_000;
const GB = 1024 ** 3;
const reportOf = (parts: ReportParts, takenAtMs = NOW_MS): SystemReport => ({
  version: 1,
  takenAtMs,
  parts,
  missing: {},
});
const volume = (freeBytes: number, more = {}) => ({
  ...{ at: '/', kind: 'ext4', totalBytes: 100 * GB, freeBytes, isReadOnly: false },
  ...more,
});
const programs = (...changes: ProgramChange[]) => ({ count: 3, changes });
const driver = (from: string | undefined, to: string | undefined, daysAgo: number): ProgramChange => ({
  name: 'quayprint-driver',
  ...(from === undefined ? {} : { from }),
  ...(to === undefined ? {} : { to }),
  atMs: NOW_MS - daysAgo * DAY_MS,
});

describe('what stands out of a report', () => {
  it('is nothing of a computer that is well, and of one of which nothing is known yet', () => {
    expect(healthOf({}, NOW_MS)).toEqual([]);
    expect(healthOf({ storage: { volumes: [volume(50 * GB)] }, services: { running: 9, failed: [] } }, NOW_MS)).toEqual(
      [],
    );
  });

  it('is what is wrong, with its reason, before what is only worth a word', () => {
    const signs = healthOf(
      {
        programs: programs(driver('3.8', '4.1', 7), driver(undefined, '3.8', 30)),
        storage: {
          volumes: [volume(4 * GB), volume(GB, { at: '/boot', isReadOnly: true }), volume(10 * GB, { at: '/home' })],
        },
        services: { running: 9, failed: ['cups'] },
        network: { interfaces: [], nameServers: [], desk: { isReached: true, ms: 3 } },
      },
      NOW_MS,
    );
    expect(signs).toEqual([
      { sign: 'full', at: '/', percent: 96 },
      { sign: 'read-only', at: '/boot' },
      { sign: 'service-failed', name: 'cups' },
      { sign: 'narrow', at: '/home', percent: 90 },
      { sign: 'changed-lately', name: 'quayprint-driver', from: '3.8', to: '4.1', atMs: NOW_MS - 7 * DAY_MS },
    ]);
    expect(signs.map(isFault)).toEqual([true, true, true, false, false]);
  });
});

it('says of many changes the first few, those of what was there before them first, and how many more', () => {
  const fresh = Array.from({ length: 30 }, (_, i) => ({ name: `p${i}`, to: '1', atMs: NOW_MS }));
  const signs = healthOf({ programs: programs(...fresh, driver('3.8', '4.1', 7)) }, NOW_MS);
  expect(signs[0]).toMatchObject({ sign: 'changed-lately', name: 'quayprint-driver' });
  expect(signs.at(-1)).toEqual({ sign: 'changed-besides', count: 27 });
  expect(signs).toHaveLength(5);
});

describe('two reports of a device', () => {
  it('differ by what is other now, programs from the first version to the last, and by nothing else', () => {
    const earlier = reportOf(
      {
        storage: { volumes: [volume(50 * GB), volume(GB, { at: '/media/stick' })] },
        services: { running: 9, failed: ['cups'] },
      },
      NOW_MS - 10 * DAY_MS,
    );
    const now = reportOf({
      storage: { volumes: [volume(20 * GB)] },
      services: { running: 9, failed: ['scanner'] },
      programs: programs(driver('4.0', '4.1', 7), driver('3.8', '4.0', 8), driver(undefined, '3.8', 30)),
    });
    expect(compareReports(earlier, now)).toEqual([
      { what: 'program', change: driver('3.8', '4.1', 7) },
      { what: 'room', at: '/', fromBytes: 50 * GB, toBytes: 20 * GB },
      { what: 'volume-went', at: '/media/stick' },
      { what: 'service-failed', name: 'scanner' },
      { what: 'service-mended', name: 'cups' },
    ]);
    // What went and came back as it was is no difference.
    const back = reportOf({ programs: programs(driver('4.1', '3.8', 1), driver('3.8', '4.1', 7)) });
    expect(compareReports(earlier, back)).toEqual([]);
  });

  it('tell changes by the computer’s own log, whatever clocks say: also one of the same second, and no old one twice', () => {
    const before = {
      ...reportOf({ programs: programs(driver(undefined, '3.8', 7)) }),
      takenAtMs: NOW_MS + 99 * DAY_MS,
    };
    const after = reportOf({ programs: programs(driver('3.8', '4.1', 7), driver(undefined, '3.8', 7)) });
    expect(compareReports(before, after)).toEqual([{ what: 'program', change: driver('3.8', '4.1', 7) }]);
  });

  it('never differ from themselves, whatever a computer says', () => {
    fc.assert(
      fc.property(anyReport, (report) => {
        expect(compareReports({ ...report, takenAtMs: NOW_MS + DAY_MS }, report)).toEqual([]);
        expect(Array.isArray(healthOf(report.parts, NOW_MS))).toBe(true);
      }),
      runs(),
    );
  });

  it('tell of each program once, from what it was to what it is', () => {
    const change = fc.record({
      name: fc.constantFrom('a', 'b', 'c'),
      to: fc.constantFrom('1', '2', '3'),
      atMs: fc.integer({ min: 1, max: 1_000 }),
    });
    fc.assert(
      fc.property(fc.uniqueArray(change, { selector: ({ atMs }) => atMs, maxLength: 12 }), (made) => {
        const was = new Map<string, string>();
        const changes = made
          .sort((a, b) => a.atMs - b.atMs)
          .map(({ name, to, atMs }): ProgramChange => {
            const from = was.get(name);
            was.set(name, to);
            return { name, to, atMs, ...(from === undefined ? {} : { from }) };
          });
        const told = compareReports(
          reportOf({}, 0),
          reportOf({ programs: { count: 3, changes: changes.toReversed() } }),
        );
        const expected = [...was].filter(([name, to]) => changes.find((one) => one.name === name)?.from !== to);
        expect(
          new Map(told.map((one) => (one.what === 'program' ? [one.change.name, one.change.to] : ['', '']))),
        ).toEqual(new Map(expected));
      }),
      runs(),
    );
  });
});

const text = fc.string({ maxLength: 20 });
const bytes = fc.nat({ max: 2 ** 30 });
const anyReport: fc.Arbitrary<SystemReport> = fc
  .record({
    storage: fc.record({
      volumes: fc.uniqueArray(
        fc.record({ at: text, kind: text, totalBytes: bytes, freeBytes: bytes, isReadOnly: fc.boolean() }),
        { selector: ({ at }) => at, maxLength: 6 },
      ),
    }),
    services: fc.record({ running: fc.nat(100), failed: fc.uniqueArray(text, { maxLength: 5 }) }),
    battery: fc.record({
      isThere: fc.boolean(),
      percent: fc.nat(100),
      isCharging: fc.boolean(),
      healthPercent: fc.nat(100),
    }),
    programs: fc.record({
      count: fc.nat(),
      changes: fc.array(fc.record({ name: text, from: text, to: text, atMs: fc.nat({ max: NOW_MS }) }), {
        maxLength: 8,
      }),
    }),
  })
  .map((parts) => reportOf(parts))
  .filter((report) => SystemReport.safeParse(report).success);
