import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { languages, type Language } from '../language.ts';
import { defaultRoutingRules, hurdles, routeQueue, type RoutedEntry, type RoutedTechnician } from './routing.ts';

const rules = {
  ...defaultRoutingRules,
  offerMs: 20,
  anyTopicAfterMs: 180,
  anyTeamAfterMs: 300,
  anyLanguageAfterMs: 600,
};
const topics = ['Printing', 'On board'];
const language = fc.constantFrom<Language>(...languages);

const technician = (id: string): fc.Arbitrary<RoutedTechnician> =>
  fc.record({
    id: fc.constant(id),
    languages: fc.uniqueArray(language, { minLength: 1 }),
    topics: fc.subarray(topics),
    team: fc.constantFrom('Pier Systems', 'Ship Systems'),
    skills: fc.subarray(['radio']),
    isHere: fc.boolean(),
    wrapUpUntilMs: fc.nat(1_500),
    screens: fc.nat(3),
    chats: fc.nat(5),
    limits: fc.constant({ screens: 3, chats: 5 }),
    lastGivenMs: fc.nat(1_000),
  });
const entry = (id: string): fc.Arbitrary<RoutedEntry> =>
  fc.record({
    id: fc.constant(id),
    sinceMs: fc.nat(1_000),
    language,
    topic: fc.constantFrom(...topics),
    team: fc.constantFrom(undefined, 'Ship Systems'),
    skills: fc.subarray(['radio']),
    wants: fc.constantFrom('screen' as const, 'chat' as const),
    passedBy: fc.subarray(['t0', 't1', 't2']),
    offer: fc.constant(undefined),
  });
const needsOf = ({ language: l, topic, wants, team, skills }: RoutedEntry) => [l, topic, wants, team, skills].join();
const many = <T>(of: (id: string) => fc.Arbitrary<T>, prefix: string, most: number) =>
  fc.integer({ min: 0, max: most }).chain((n) => fc.tuple(...Array.from({ length: n }, (_, i) => of(`${prefix}${i}`))));

describe('one round of routing', () => {
  it('offers nobody to two, nothing beyond a limit, away or wrapping up, and leaves nobody waiting beside somebody free', () => {
    fc.assert(
      fc.property(many(entry, 'e', 8), many(technician, 't', 4), (entries, technicians) => {
        const now = 1_000;
        const { offers, lapsed } = routeQueue(entries, technicians, rules, now);
        expect(lapsed).toEqual([]);
        expect(new Set(offers.map((o) => o.entryId)).size).toBe(offers.length);
        expect(new Set(offers.map((o) => o.technicianId)).size).toBe(offers.length);
        for (const offer of offers) {
          const [e, t] = [
            entries.find((x) => x.id === offer.entryId),
            technicians.find((x) => x.id === offer.technicianId),
          ];
          expect(e && t && hurdles(e, t, rules, now)).toEqual([]);
        }
        const free = technicians.filter((t) => !offers.some((o) => o.technicianId === t.id));
        for (const e of entries.filter((x) => !offers.some((o) => o.entryId === x.id)))
          for (const t of free) expect(hurdles(e, t, rules, now)).not.toEqual([]);
        // Fair: of two with the same needs, whoever waits longer is not left out for the other.
        for (const late of entries.filter((e) => offers.some((o) => o.entryId === e.id)))
          for (const early of entries.filter((e) => e.sinceMs < late.sinceMs))
            if (needsOf(early) === needsOf(late)) expect(offers.some((o) => o.entryId === early.id)).toBe(true);
      }),
      runs(),
    );
  });
});

/** Days of a whole queue: people come, technicians answer or do not, work ends. Time goes in steps of ten. */
interface Day {
  readonly arrivals: readonly (readonly [atMs: number, language: Language, topic: string])[];
  readonly answers: readonly boolean[];
  readonly helpMs: readonly number[];
}
const day: fc.Arbitrary<Day> = fc.record({
  arrivals: fc.array(fc.tuple(fc.nat(590), language, fc.constantFrom(...topics)), { maxLength: 25 }),
  answers: fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }),
  helpMs: fc.array(fc.integer({ min: 20, max: 200 }), { minLength: 25, maxLength: 25 }),
});

it('loses nobody and starves nobody, however answers fall, while somebody who could help comes back', () => {
  fc.assert(
    fc.property(day, ({ arrivals, answers, helpMs }) => {
      const names = ['t0', 't1', 't2'];
      const entries: (RoutedEntry & { takenAt?: number })[] = [];
      const work = new Map<string, number[]>(names.map((n) => [n, []]));
      const awayUntil = new Map<string, number>();
      let turn = 0;
      for (let now = 0; now < 60_000 && (now <= 600 || entries.some((e) => !e.takenAt)); now += 10) {
        for (const [atMs, lang, topic] of arrivals)
          if (atMs >= now - 10 && atMs < now)
            entries.push({
              id: `e${entries.length}`,
              sinceMs: atMs,
              language: lang,
              topic,
              team: topic === 'On board' ? 'Ship Systems' : undefined,
              skills: topic === 'On board' ? ['radio'] : [],
              wants: 'screen',
              passedBy: [],
              offer: undefined,
            });
        for (const [name, ends] of work)
          work.set(
            name,
            ends.filter((end) => end > now),
          );
        const technicians = names.map<RoutedTechnician>((id, i) => ({
          id,
          languages: i === 0 ? ['en', 'no'] : ['en', 'de'],
          topics: i === 2 ? ['Printing'] : [],
          team: i === 1 ? 'Ship Systems' : 'Pier Systems',
          skills: i === 1 ? ['radio'] : [],
          isHere: (awayUntil.get(id) ?? 0) <= now,
          wrapUpUntilMs: 0,
          screens: work.get(id)?.length ?? 0,
          chats: 0,
          limits: { screens: 3, chats: 5 },
          lastGivenMs: 0,
        }));
        const open = entries.filter((e) => !e.takenAt);
        const { lapsed, offers } = routeQueue(open, technicians, rules, now);
        const set = (id: string, change: (e: RoutedEntry) => Partial<(typeof entries)[number]>) =>
          entries.forEach((e, i) => {
            if (e.id === id) entries[i] = { ...e, ...change(e) };
          });
        for (const { entryId, technicianId } of lapsed) {
          awayUntil.set(technicianId, now + 100);
          set(entryId, (e) => ({ offer: undefined, passedBy: [...e.passedBy, technicianId] }));
        }
        for (const { entryId, technicianId, endsAtMs } of offers) {
          set(entryId, () => ({ offer: { technicianId, endsAtMs } }));
          // Some answer at once, some let it pass; nobody lets everything pass for ever.
          if (answers[turn++ % 40] || turn % 3 === 0) {
            set(entryId, () => ({ offer: undefined, takenAt: now }));
            work.get(technicianId)?.push(now + (helpMs[turn % 25] ?? 50));
            expect(work.get(technicianId)?.length).toBeLessThanOrEqual(3);
          }
        }
      }
      expect(entries).toHaveLength(arrivals.length);
      expect(entries.filter((e) => !e.takenAt)).toEqual([]);
    }),
    runs(),
  );
});

it('keeps a topic with its team and with those who know what it asks for, until it has waited too long', () => {
  const e: RoutedEntry = {
    id: 'e',
    sinceMs: 0,
    language: 'en',
    topic: 'On board',
    team: 'Ship Systems',
    skills: ['radio'],
    wants: 'screen',
    passedBy: [],
    offer: undefined,
  };
  const pim: RoutedTechnician = {
    id: 'pim',
    languages: ['en'],
    topics: [],
    team: 'Pier Systems',
    skills: [],
    isHere: true,
    wrapUpUntilMs: 0,
    screens: 0,
    chats: 0,
    limits: { screens: 3, chats: 5 },
    lastGivenMs: 0,
  };
  const wanjiru = { ...pim, id: 'wanjiru', team: 'Ship Systems', skills: ['radio'], screens: 2 };
  expect(hurdles(e, pim, rules, 10)).toEqual([
    { word: 'team', name: 'Ship Systems' },
    { word: 'needs', name: 'radio' },
  ]);
  expect(hurdles(e, wanjiru, rules, 10)).toEqual([]);
  expect(hurdles(e, pim, rules, 400)).toEqual([{ word: 'needs', name: 'radio' }]);
  expect(hurdles(e, pim, rules, 700)).toEqual([]);
  expect(routeQueue([e], [pim, wanjiru], rules, 700).offers[0]?.technicianId, 'who knows goes first').toBe('wanjiru');
});
