import { languages } from '@porch/words';
import { settings } from '@porch/words/settings';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { contradictionsIn } from './contradictions.ts';
import { policyFrom } from './policy.ts';
import { PolicyBook, type SettingVersion } from './policy-book.ts';
import { readSettingText, settingNames, settingOf } from './settings.ts';

const firstValues = new PolicyBook([]).valuesFor(undefined, 0);
const around = { teams: ['Desk', 'Ship Systems'], hasDirectory: true };
const policyWith = (values: Partial<typeof firstValues>) => policyFrom({ ...firstValues, ...values }, []);

it('declares every setting whole: what it comes with is valid, and reads the same as it is written', () => {
  for (const name of settingNames) {
    const { kind, first } = settingOf(name);
    expect(readSettingText(name, kind.toText(first)), name).toEqual(first);
    expect(kind.schema.safeParse(first).success, name).toBe(true);
  }
  const earlier = settingNames.flatMap((name) => settingOf(name).earlier ?? []);
  expect(new Set(earlier).size).toBe(earlier.length);
  for (const language of languages) expect(Object.keys(settings[language].all)).toEqual(settingNames);
  expect(contradictionsIn(policyFrom(firstValues, []), { teams: [], hasDirectory: false })).toEqual([]);
});

it('says what is wrong with a value, whatever somebody types', () => {
  for (const [name, typed, says] of [
    ['code-minutes', 'soon', /number/],
    ['code-minutes', '', /number/],
    ['code-minutes', '0', /0\.01/],
    ['max-screens', '2.5', /int/],
    ['code-single-use', 'maybe', /neither yes nor no/],
    ['time-zone', 'Atlantis', /IANA/],
    ['office-hours', 'always', /Mon-Fri/],
    ['bundles', 'All = make-tea', /no permission/],
    ['notice', '{', /no JSON/],
    ['notice', '{"version":"1"}', /en/],
    ['ticket-if-none', 'often', /at-start/],
    ['desk-name', '   ', /customers read it/],
    ['desk-name', 'a\u0000b', /cannot be shown/],
    ['notice', JSON.stringify({ version: '1', en: 'a\u0000', no: 'b', de: 'c' }), /cannot be shown/],
    ['desk-phone', '5'.repeat(41), /40/],
  ] as const)
    expect(() => readSettingText(name, typed), `${name} ${typed}`).toThrow(says);
  // Any script is fine, and so is text from right to left.
  expect(readSettingText('desk-name', 'مكتب ⛴ Fähre')).toBe('مكتب ⛴ Fähre');
  fc.assert(
    fc.property(fc.constantFrom(...settingNames), fc.string({ unit: 'binary' }), (name, typed) => {
      try {
        const value = readSettingText(name, typed);
        expect(settingOf(name).kind.schema.safeParse(value).success).toBe(true);
      } catch (error) {
        expect((error as Error).message).not.toBe('');
      }
    }),
    runs(),
  );
});

it('finds what cannot both be meant', () => {
  const found = (values: Partial<typeof firstValues>, more = around) =>
    contradictionsIn(policyWith(values), more).map(({ settings }) => settings.join(' '));
  expect(found({ 'code-minutes': 10, 'code-rotate-minutes': 10 })).toEqual(['code-rotate-minutes code-minutes']);
  expect(found({ 'code-minutes': 10, 'code-rotate-minutes': 9 })).toEqual([]);
  expect(found({ bundles: 'All = view-screen', 'may-not-ask': '*: view-screen' })).toEqual(['bundles may-not-ask']);
  expect(found({ 'may-not-ask': 'Kitchen: view-screen' })).toEqual(['may-not-ask']);
  expect(found({ 'may-not-ask': 'Ship Systems: view-screen; lead: control-input' })).toEqual([]);
  expect(found({ 'requests-signed-in': true }, { ...around, hasDirectory: false })).toEqual(['requests-signed-in']);
});

const TEAMS = [undefined, 'Desk', 'Ship Systems'];
const change = fc.record({
  name: fc.constantFrom('code-minutes', 'max-waiting', 'wrap-up-seconds', 'no-such-setting'),
  team: fc.constantFrom(...TEAMS),
  // Some that no release can read.
  value: fc.constantFrom<unknown>(undefined, 7, 20, 33, 'never', -4),
  afterMs: fc.nat(40),
});

it('comes to the same as a plain reading of everything that was set, for every team at every moment', () => {
  fc.assert(
    fc.property(fc.array(change, { maxLength: 25 }), (changes) => {
      let nowMs = 0;
      const versions = changes.map(({ afterMs, ...one }, i): SettingVersion => {
        nowMs += afterMs;
        const before = changes.slice(0, i).filter(({ name, team }) => name === one.name && team === one.team);
        return { ...one, version: before.length + 1, sinceMs: nowMs };
      });
      const book = new PolicyBook(versions.toReversed(), []);
      // Forwards and backwards, so that what was worked out before is of no use and of no harm.
      const moments = [...Array(nowMs + 2).keys(), ...Array(nowMs + 2).keys()].filter((ms) => ms % 3 === 0);
      for (const [i, atMs] of moments.entries())
        for (const team of TEAMS) {
          const at = i > moments.length / 2 ? nowMs + 1 - atMs : atMs;
          const plain = (name: string, of: string | undefined) => {
            let value: unknown;
            for (const v of versions)
              if (v.name === name && v.team === of && v.sinceMs <= at && v.value !== 'never' && v.value !== -4)
                value = v.value;
            return value as number | undefined;
          };
          const policy = book.policyFor(team, at);
          const own = (name: string) => (team === undefined ? undefined : plain(name, team));
          expect(policy.codeLifetimeMs).toBe((own('code-minutes') ?? plain('code-minutes', undefined) ?? 30) * 60_000);
          expect(policy.wrapUpMs).toBe((own('wrap-up-seconds') ?? plain('wrap-up-seconds', undefined) ?? 60) * 1000);
          expect(policy.maxWaiting, 'the desk alone').toBe(plain('max-waiting', undefined) ?? 200);
          expect(book.policyFor(team, at), 'the same while nothing changes').toBe(policy);
        }
    }),
    runs(),
  );
});

it('is described in the documents, each with what it comes with', () => {
  const page = readFileSync(join(import.meta.dirname, '../../../../docs/settings.md'), 'utf8');
  for (const name of settingNames) {
    const { label, help } = settings.en.all[name];
    expect(page.replaceAll('\\|', '|')).toMatch(new RegExp(`\\| \`${name}\` +\\|`));
    expect(page, name).toContain(`${label}. ${help}`);
  }
});
