import { DAY_MS } from '@porch/core';
import fc from 'fast-check';
import {
  appendFileSync,
  chmodSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { randomUUID } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { StandingStore, StandingUnsafe, type Standing } from './standing-store.ts';

let base = '';
let folder = '';
beforeEach(() => {
  base = mkdtempSync(join(tmpdir(), 'porch-standing-'));
  folder = join(base, 'state');
});
afterEach(() => rmSync(base, { recursive: true, force: true }));

const standing: Standing = {
  version: 1,
  uid: process.getuid?.() ?? -1,
  serviceUrl: 'https://help.marrowick.example',
  deskName: 'Marrowick Ferries',
  deviceId: randomUUID(),
  signSecret: 'ab'.repeat(32),
  consent: { name: 'tern-quay-04', allowed: ['view-screen'], madeAtMs: 1, untilMs: DAY_MS, asksEachVisit: true },
  salt: 'cd'.repeat(16),
  scalar: 'ef'.repeat(32),
  triesLeft: 5,
};

it('keeps the consent for this account alone, whole, and gives back what was written', () => {
  const store = new StandingStore(folder);
  expect(store.read()).toBeUndefined();
  store.write(standing);
  expect(new StandingStore(folder).read()).toEqual(standing);
  expect(statSync(join(folder, 'standing.json')).mode & 0o777).toBe(0o600);
  expect(statSync(folder).mode & 0o777).toBe(0o700);
  expect(readdirSync(folder)).toEqual(['standing.json']);
});

it('lets nobody in by a file that others may read, that is of another account, or that is not what we wrote', () => {
  const store = new StandingStore(folder);
  store.write(standing);
  const file = join(folder, 'standing.json');
  for (const mode of [0o604, 0o640, 0o666]) {
    chmodSync(file, mode);
    expect(() => store.read()).toThrow(StandingUnsafe);
    expect(() => store.takeTry()).toThrow(StandingUnsafe);
  }
  chmodSync(file, 0o600);
  for (const bad of [
    '',
    '{',
    '[]',
    JSON.stringify({ ...standing, uid: standing.uid + 1 }),
    JSON.stringify({ ...standing, consent: { ...standing.consent, allowed: ['fetch-files'] } }),
    JSON.stringify({ ...standing, consent: { ...standing.consent, untilMs: 91 * DAY_MS } }),
    JSON.stringify({ ...standing, more: true }),
  ]) {
    writeFileSync(file, bad, { mode: 0o600 });
    expect(() => store.read(), bad).toThrow(StandingUnsafe);
  }
});

it('has a try on the disk before it is used: starting anew wins nobody another', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom('try', 'restart', 'right'), { maxLength: 30 }), (acts) => {
      let store = new StandingStore(folder);
      store.write(standing);
      let left = 5;
      for (const act of acts) {
        if (act === 'restart') store = new StandingStore(folder);
        else if (act === 'try') {
          expect(store.takeTry()).toBe(left > 0);
          left = Math.max(0, left - 1);
        } else if (left > 0) {
          store.setTries(5);
          left = 5;
        }
        expect(store.read()?.triesLeft).toBe(left);
      }
    }),
    // Each step is a file that is synchronised with the disk.
    { ...runs(), numRuns: runs().numRuns / 4 },
  );
});

it('lists visits newest first, one line for each, over half a line and nonsense', () => {
  const store = new StandingStore(folder);
  store.addVisit({ atMs: 1, sessionId: randomUUID(), technicianName: 'Pim', hasBegun: true });
  expect(existsSync(join(folder, 'visits.jsonl')), 'nothing is listed where there is no consent').toBe(false);
  store.write(standing);
  const [one, two] = [randomUUID(), randomUUID()];
  store.addVisit({ atMs: 1, sessionId: one, technicianName: 'Pim Aldersey', hasBegun: true });
  appendFileSync(join(folder, 'visits.jsonl'), '{"atMs": 5\nnonsense\n');
  store.addVisit({ atMs: 2, sessionId: two, technicianName: 'Rune Takahashi', hasBegun: false });
  store.addVisit({ atMs: 3, sessionId: one, technicianName: 'Pim Aldersey', hasBegun: false });
  expect(store.visits().map((v) => [v.technicianName, v.hasBegun])).toEqual([
    ['Rune Takahashi', false],
    ['Pim Aldersey', true],
  ]);
});

it('leaves nothing behind, and nothing of others away', () => {
  const store = new StandingStore(folder);
  store.write(standing);
  store.addVisit({ atMs: 1, sessionId: randomUUID(), technicianName: 'Pim', hasBegun: true });
  store.remove();
  expect(existsSync(folder)).toBe(false);
  store.remove();
  store.write(standing);
  writeFileSync(join(folder, 'facts-of-a-session.jsonl'), '');
  store.remove();
  expect(readdirSync(folder)).toEqual(['facts-of-a-session.jsonl']);
});
