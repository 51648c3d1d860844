import { evolveSession, isOver, mayDo, newSession, searchWords, wordsOf, type SessionEvent } from '@porch/core';
import { House, runs } from '@porch/testkit';
import { AppError, SessionSearch } from '@porch/wire';
import fc from 'fast-check';
import { randomUUID } from 'node:crypto';
import { pino } from 'pino';
import type { DataSource } from 'typeorm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Additions } from '../src/module/added.ts';
import { Background } from '../src/module/background.ts';
import { Projecting } from '../src/module/projecting.ts';
import type { Projection } from '../src/module/projection.ts';
import type { Technician } from '../src/modules/people/technician.ts';
import { makeRecords } from '../src/modules/records.ts';
import { terminalWaits } from '../src/db/data-source.ts';
import { sessionProjections } from '../src/modules/sessions/projections/index.ts';
import { Mending } from '../src/modules/sessions/mending.ts';
import { SessionBook } from '../src/modules/sessions/session-book.ts';
import { SessionDesk } from '../src/modules/sessions/session-desk.ts';
import { SessionFinder } from '../src/modules/sessions/session-finder.ts';
import { SessionWriter } from '../src/modules/sessions/session-writer.ts';
import { readMoment } from '../src/modules/sessions/session-store.ts';

/* What is kept beside ledgers, against the ledgers themselves: the book on real records, without a service around it. */
let house: House;
let records: DataSource;
let lead: Technician;
beforeAll(async () => {
  house = await House.open();
  // Nothing else is to mend what this test leaves behind.
  await house.killService();
  records = makeRecords(house.databaseUrl, () => undefined, terminalWaits);
  await records.initialize();
  lead = technician('odalys', 'Desk', 'lead');
});
afterAll(async () => {
  await records.destroy();
  await house.close();
});

const technician = (id: string, team: string, role: Technician['role'] = 'technician'): Technician => ({
  ...{ id, team, role, name: id, email: `${id}@marrowick.example` },
  ...{ languages: ['en'], topics: [], skills: [], disabledAt: null },
});
const log = pino({ level: 'silent' });

/** Which projection is at fault for whom: none, until a schedule says so. */
const faulty = new Map<string, string>();
const breakable: Projection[] = sessionProjections.map((projection) => ({
  ...projection,
  apply: (change) => {
    if (faulty.get(change.sessionId) === projection.name) throw new Error('somebody made a mistake');
    return projection.apply(change);
  },
}));

function bookOn(projections: readonly Projection[] = breakable, program = 'this one') {
  const technicians = new Map([[lead.id, lead]]);
  const projecting = new Projecting({ projections, onFault: () => undefined });
  const additions = new Additions();
  const book = new SessionBook({
    ...{ records, program, maxEntries: () => 1_000, level: () => 99 },
    writer: new SessionWriter({ alongside: additions.alongside, projecting, program }),
    background: new Background(log),
    contextFor: () => {
      throw new Error('nothing is commanded here');
    },
  });
  return {
    book,
    mending: new Mending(records, projecting),
    desk: new SessionDesk({ book, technicians, additions }),
  };
}

/** One event of many kinds, drawn: whoever wrote it, the records keep it. */
const people = ['pim', 'rune', 'ilse'];
const texts = [
  'The printer prints blank',
  'Skår på broen',
  'мостик 🖨️',
  'MF-1042 \u202eabc',
  'x'.repeat(50),
  '“quoted” \\ %_',
];
const permissions = ['view-screen', 'control-input', 'give-files'] as const;
const step = fc.record({
  kind: fc.constantFrom(
    'join',
    'leave',
    'chat',
    'grant',
    'file',
    'letIn',
    'sendAway',
    'end',
    'log',
    'erase',
    'break',
    'mend',
    'cold',
  ),
  who: fc.nat(2),
  text: fc.nat(texts.length - 1),
});
/** The same id for the same number. */
const idOf = (number: number) => `00000000-0000-4000-8000-${String(number).padStart(12, '0')}`;
const CUSTOMER = idOf(99);
type Step = typeof step extends fc.Arbitrary<infer S> ? S : never;

function eventsOf({ kind, who, text }: Step, seed: number): SessionEvent[] {
  const [person = '', said = ''] = [people[who], texts[text]];
  const by = idOf(who);
  const key = person.padEnd(44, '0');
  switch (kind) {
    case 'join':
      return [
        {
          ...{
            type: 'participantJoined',
            by,
            participantId: by,
            seat: who + 1,
            role: 'technician',
            technicianId: person,
          },
          ...{
            signKey: key,
            agreeKey: key,
            startId: `s${seed}`,
            way: 'console',
            personal: { name: `${person} Østlund` },
          },
        },
      ];
    case 'leave':
      return [{ type: 'participantLeft', by, participantId: by, reason: 'they went' }];
    case 'chat':
      return [{ type: 'chatSent', by, messageId: randomUUID(), personal: { text: said } }];
    case 'grant':
      return [
        {
          ...{
            type: 'permissionGranted',
            by: CUSTOMER,
            askId: idOf(50),
            participantId: by,
            grantNumber: seed + 1,
            endsAtMs: 9e15,
          },
          ...{ permission: permissions[who] ?? 'view-screen', grant: '', signature: '' },
        },
      ];
    case 'file': {
      const about = {
        fileId: idOf(1_000 + seed),
        fromId: by,
        toId: CUSTOMER,
        sizeBytes: seed * 10,
        sha256: '0'.repeat(64),
      };
      return [
        { type: 'fileOffered', by, ...about, personal: { name: `${said}.txt` } },
        { type: 'fileArrived', by, fileId: idOf(1_000 + seed), sha256: '0'.repeat(64) },
      ];
    }
    case 'letIn':
      return [{ type: 'beside/letIn', by, technicianId: person, part: 'colleague', personal: { name: person } }];
    case 'sendAway':
      return [{ type: 'beside/sentAway', by, technicianId: person }];
    case 'end':
      return [{ type: 'sessionEnded', by, reason: 'technician', why: '' }];
    case 'log':
      return [{ type: 'outcomeLogged', by, outcome: 'resolved', minutes: 3, personal: { note: said } }];
    default:
      return [];
  }
}
const prepared = (owner: string, said: string): SessionEvent[] => [
  {
    ...{ type: 'sessionPrepared', by: `technician:${owner}`, technicianId: owner, behind: 'ticket', ticketRef: 'MF-7' },
    personal: { technicianName: owner, purpose: said },
  },
  { type: 'customerExpected', by: 'service', personal: { customerName: 'Bettina Skår' } } as SessionEvent,
];

const dump = (id: string) =>
  Promise.all(
    ['session_person', 'session_permission', 'session_files', 'session_words'].map((table) =>
      records.query<object[]>(`SELECT * FROM "${table}" t WHERE "session_id" = $1 ORDER BY t::text`, [id]),
    ),
  ).then(async (beside) => [
    ...beside,
    await records.query<object[]>(
      `SELECT "phase", "technician_id", "purpose", "customer_name", "outcome", "minutes", "present", "changed_at", "behind_in", "projected_seq" = "seq" AS follows FROM "session" WHERE "id" = $1`,
      [id],
    ),
  ]);

/** A session that this happened in. Hands back what a reader of its ledger alone knows. */
async function happen(steps: readonly Step[], owner: string) {
  const id = randomUUID();
  let { book, mending, desk } = bookOn();
  await book.prepare(id, () => Promise.resolve(prepared(owner, texts[steps.length % texts.length] ?? '')));
  for (const [seed, one] of steps.entries()) {
    if (one.kind === 'break') faulty.set(id, sessionProjections[one.who]?.name ?? '');
    else if (one.kind === 'mend') {
      faulty.delete(id);
      await mending.rebuild(id);
    } else if (one.kind === 'cold') ({ book, mending, desk } = bookOn());
    else if (one.kind === 'erase') {
      if (isOver((await book.open(id)).state)) await desk.erase(lead, id, 'they asked');
    } else await book.act(id, () => eventsOf(one, seed));
  }
  const { entries } = await bookOn().book.open(id);
  return { id, entries, book, mending };
}

describe('what is kept beside a ledger', () => {
  it('is what making it anew comes to, whatever happened, was erased, or went wrong on the way', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 14 }), fc.constantFrom(...people), async (steps, owner) => {
        const { id, entries, mending } = await happen(steps, owner);
        const live = await dump(id);
        const [row] = (live.at(-1) ?? []) as { behind_in: string[]; follows: boolean }[];
        const broken = new Set(
          steps.flatMap(({ kind, who }) => (kind === 'break' ? [sessionProjections[who]?.name] : [])),
        );
        // Only what was at fault is behind, and it says so.
        expect(row?.follows).toBe(true);
        for (const name of row?.behind_in ?? []) expect(broken).toContain(name);
        faulty.delete(id);
        await mending.rebuild(id);
        const anew = await dump(id);
        if (!row?.behind_in.length) expect(live).toEqual(anew);

        // A plain second computation, from the entries alone.
        const words = new Set(entries.flatMap(({ event }) => wordsOf(event)));
        const state = entries.reduce((s, e) => evolveSession(s, e.event, e.atMs), newSession);
        const readers = [
          state.technicianId,
          ...Object.values(state.participants).map((p) => p.technicianId),
          ...Object.keys(state.letIn),
        ];
        const [persons, allowed, , [said]] = anew as [
          { technician_id: string }[],
          { permission: string }[],
          object[],
          { words: string }[],
        ];
        expect(new Set(persons.map((p) => p.technician_id))).toEqual(new Set(readers.filter(Boolean)));
        expect(allowed.map((p) => p.permission).sort()).toEqual(
          [
            ...new Set(entries.flatMap(({ event }) => (event.type === 'permissionGranted' ? [event.permission] : []))),
          ].sort(),
        );
        expect(new Set([...(said?.words ?? '').matchAll(/'([^']+)'/g)].map(([, word]) => word))).toEqual(words);
        expect(anew.at(-1)).toMatchObject([
          { phase: state.phase.name, technician_id: state.technicianId, behind_in: [] },
        ]);
        faulty.clear();
      }),
      runs(),
    );
  });

  it('is made anew by itself where an older release wrote meanwhile, and by whoever runs the service', async () => {
    const { id, book, mending } = await happen([{ kind: 'join', who: 0, text: 0 }], 'pim');
    const whole = await dump(id);
    // An older release moves neither of the two, and knows none of the tables.
    await records.query(`UPDATE "session" SET "projected_seq" = 0 WHERE "id" = $1`, [id]);
    await records.query(`DELETE FROM "session_words" WHERE "session_id" = $1`, [id]);
    expect(await mending.countBehind()).toBeGreaterThan(0);
    while (await mending.round());
    expect(await dump(id)).toEqual(whole);
    // Or by the next entry, if that comes first.
    await records.query(`UPDATE "session" SET "projected_seq" = 0 WHERE "id" = $1`, [id]);
    await records.query(`DELETE FROM "session_person" WHERE "session_id" = $1`, [id]);
    await book.act(id, () => eventsOf({ kind: 'chat', who: 0, text: 1 }, 7));
    expect((await dump(id))[0]).toEqual(whole[0]);

    await records.query(`DELETE FROM "session_words" WHERE "session_id" = $1`, [id]);
    expect(await house.admin(['rebuild', '--session', id])).toMatchObject({ code: 0, out: '1 made anew.\n' });
    expect(JSON.stringify(await dump(id))).toContain('broen');
    expect((await house.admin(['rebuild', '--session', randomUUID()])).err).toContain('there is no session');
    expect((await house.admin(['rebuild', '--session', 'MF-7'])).err).toContain('no session');
    expect((await house.admin(['rebuild', '--json'])).out).toContain('"faulty": []');
  });

  it('is behind where it cannot be written, and the event stands', async () => {
    const bad: Projection = {
      name: 'bad',
      apply: ({ sessionId }) => [{ sql: `INSERT INTO "session_words" VALUES ($1, $2)`, values: [sessionId, null] }],
      clear: () => [],
    };
    const { book, mending } = bookOn([...sessionProjections, bad]);
    const id = randomUUID();
    await book.prepare(id, () => Promise.resolve(prepared('pim', 'Nothing prints')));
    await book.act(id, () => eventsOf({ kind: 'chat', who: 0, text: 1 }, 1));
    expect((await bookOn().book.open(id)).seq).toBe(3);
    expect(await dump(id)).toMatchObject([[{}], [], [], [{}], [{ behind_in: ['bad'], follows: true }]]);
    // One that cannot be mended holds nobody up.
    while (await mending.round());
    expect(await dump(id)).toMatchObject([[{}], [], [], [{}], [{ behind_in: ['bad'] }]]);
    await bookOn().mending.rebuild(id);
    expect((await dump(id)).at(-1)).toMatchObject([{ behind_in: [] }]);
  });
});

describe('a snapshot', () => {
  it('comes to the same as reading every entry, is of this program alone, and goes with whoever is erased', async () => {
    const id = randomUUID();
    const { book } = bookOn();
    await book.prepare(id, () => Promise.resolve(prepared('pim', 'Nothing prints')));
    for (let i = 0; i < 26; i++)
      await book.act(id, () =>
        (['join', 'chat', 'file', 'grant', 'letIn'] as const).flatMap((kind) =>
          eventsOf({ kind, who: i % 3, text: i % texts.length }, i),
        ),
      );
    const kept = () =>
      records.query<{ seq: number }[]>(`SELECT "seq" FROM "session_snapshot" WHERE "session_id" = $1`, [id]);
    expect((await kept())[0]?.seq).toBeGreaterThan(100);
    const whole = await bookOn().book.open(id);
    for (const program of ['this one', 'another']) {
      const moment = await readMoment(records.manager, id, program);
      expect(moment.seq).toBe(whole.seq);
      expect(moment.state, 'but for what is undefined').toEqual(whole.state);
    }
    // Going on from it decides the same as going on from all.
    await bookOn().book.act(id, ({ state }) =>
      state.technicianId === 'pim' ? eventsOf({ kind: 'end', who: 0, text: 0 }, 1) : [],
    );
    await bookOn().desk.erase(lead, id, 'they asked');
    expect(await kept()).toEqual([]);
    expect(JSON.stringify(await dump(id))).not.toMatch(/Bettina|skar|broen/i);
  });
});

describe('looking for sessions', () => {
  it('finds what a reader of all ledgers would, for a technician and for leads, page after page, once each', async () => {
    await records.query('DELETE FROM "session"');
    const desk = new Map([
      ['pim', technician('pim', 'Deck')],
      ['rune', technician('rune', 'Deck', 'lead')],
      ['ilse', technician('ilse', 'Office')],
      ['odalys', lead],
    ]);
    const all: Awaited<ReturnType<typeof happen>>[] = [];
    const schedules = fc.sample(fc.tuple(fc.array(step, { maxLength: 8 }), fc.constantFrom(...people)), {
      numRuns: 60,
      seed: 4,
    });
    for (const [steps, owner] of schedules)
      all.push(
        await happen(
          steps.filter(({ kind }) => kind !== 'break'),
          owner,
        ),
      );
    const finder = new SessionFinder({ records, technicians: desk });
    const order = await records.query<{ id: string }[]>(
      `SELECT "id" FROM "session" ORDER BY "prepared_at" DESC, "id" DESC`,
    );

    const plainly = (me: Technician, search: SessionSearch): string[] =>
      order
        .flatMap(({ id }) => all.find((one) => one.id === id) ?? [])
        .filter(({ entries, id }) => {
          const state = entries.reduce((s, e) => evolveSession(s, e.event, e.atMs), newSession);
          const inIt = [
            state.technicianId,
            ...Object.values(state.participants).map((p) => p.technicianId),
            ...Object.keys(state.letIn),
          ];
          const ownerTeam = desk.get(state.technicianId ?? '')?.team;
          const mayRead = mayDo(me, 'read a session', {
            ownerId: state.technicianId,
            ownerTeam,
            wasIn: inIt.includes(me.id),
          });
          const words = entries.flatMap(({ event }) => wordsOf(event));
          const granted = entries.some(
            ({ event }) => event.type === 'permissionGranted' && event.permission === search.permission,
          );
          return (
            mayRead &&
            (!search.phase || state.phase.name === search.phase) &&
            (!search.outcome || (state.phase.name === 'logged' && state.phase.outcome === search.outcome)) &&
            (!search.technician || inIt.includes(search.technician)) &&
            (!search.permission || granted) &&
            // Steps are drawn as they come: a file of somebody who never was in it goes neither way.
            (!search.files ||
              Object.values(state.slices.files).some((f) => f.stage === 'arrived' && state.participants[f.fromId])) &&
            (!search.idStart || id.startsWith(search.idStart)) &&
            searchWords(search.words ?? '').every((wanted) =>
              words.some((w) => (wanted.length > 1 ? w.startsWith(wanted) : w === wanted)),
            )
          );
        })
        .map(({ id }) => id);

    const question = fc.record(
      {
        words: fc.constantFrom(
          'skar',
          'SKÅR på',
          'print',
          'мостик',
          '🖨',
          'x',
          'bettina blank',
          'nobody',
          "' | 'a",
          'mf-1042',
        ),
        phase: fc.constantFrom('prepared', 'ended', 'logged'),
        outcome: fc.constant('resolved'),
        technician: fc.constantFrom(...people),
        permission: fc.constantFrom(...permissions),
        files: fc.constant('any'),
        idStart: fc.constantFrom(...all.map(({ id }) => id.slice(0, 5))),
      },
      { requiredKeys: [] },
    );
    await fc.assert(
      fc.asyncProperty(
        question,
        fc.constantFrom(...desk.values()),
        fc.integer({ min: 1, max: 9 }),
        async (asked, me, limit) => {
          const found: string[] = [];
          for (let cursor: string | undefined; ;) {
            const page = await finder.find(me, SessionSearch.parse({ ...asked, limit, ...(cursor ? { cursor } : {}) }));
            expect(page.ids.length).toBeLessThanOrEqual(limit);
            found.push(...page.ids);
            if (!(cursor = page.next)) break;
          }
          expect(found).toEqual(plainly(me, SessionSearch.parse(asked)));
        },
      ),
      runs(),
    );
  });

  it('says no to a place in another list, to one that is none, and to pages that nobody reads', async () => {
    const finder = new SessionFinder({ records, technicians: new Map() });
    const { next } = await finder.find(lead, SessionSearch.parse({ limit: 1 }));
    expect((await finder.find(lead, SessionSearch.parse({ limit: 2, cursor: next }))).ids).toHaveLength(2);
    for (const [cursor, more] of [
      [next, { phase: 'live' }],
      ['yesterday', {}],
      [Buffer.from('[1]').toString('base64url'), {}],
    ] as const)
      await expect(finder.find(lead, SessionSearch.parse({ ...more, cursor }))).rejects.toMatchObject(
        new AppError('CURSOR_UNKNOWN'),
      );
    for (const bad of [
      { limit: 10_000 },
      { limit: 0 },
      { idStart: 'zz' },
      { from: 'yesterday' },
      { words: 'x'.repeat(201) },
    ])
      expect(SessionSearch.safeParse(bad).success, JSON.stringify(bad)).toBe(false);
  });
});
