import {
  allPermissions,
  dependants,
  newSession,
  rulesOf,
  type Participant,
  type Permission,
  type SessionState,
} from '@porch/core';
import { makeKeys, readGrant } from '@porch/wire';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { GrantBook } from './grant-book.ts';

/* The check that counts: what a computer lets a technician's key do. Only a yes adds to it; everything else takes away. */
const SESSION = '00000000-0000-4000-8000-000000000001';
const HOLDER = makeKeys();
const technicians = ['pim', 'rune'].map((id, seat) => ({ ...makeKeys(), id, seat, side: 'desk', isGone: false }));
const permission = fc.constantFrom(...allPermissions);
const who = fc.nat(1);
const step = fc.oneof(
  fc.record({ do: fc.constant('grant' as const), who, permission, forMs: fc.integer({ min: 1, max: 5_000 }) }),
  fc.record({ do: fc.constant('drop' as const), who, permission }),
  fc.record({ do: fc.constant('dropKey' as const), who }),
  fc.record({ do: fc.constant('wait' as const), forMs: fc.nat(3_000) }),
  fc.record({
    do: fc.constant('hear' as const),
    who,
    permission,
    standing: fc.constantFrom('takenBack', 'over', 'allowed', 'saidNo', 'waiting'),
    isGone: fc.boolean(),
  }),
);
const withEverybody = (more: Partial<SessionState> = {}): SessionState => ({
  ...newSession,
  participants: Object.fromEntries(technicians.map((t) => [t.id, t as unknown as Participant])),
  ...more,
});

describe('grants that are held', () => {
  it('are what a yes gave and nothing took away, for one key, until their end: whatever the service says', () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const book = new GrantBook(HOLDER, SESSION, 7);
        const model = new Map<string, number>();
        const name = (i: number, p: Permission) => `${i} ${p}`;
        const lose = (i: number, p: Permission): void => {
          model.delete(name(i, p));
          for (const other of dependants(p)) lose(i, other);
        };
        let nowMs = 0;
        let last = 7;
        for (const s of steps) {
          const technician = 'who' in s ? technicians[s.who] : undefined;
          if (s.do === 'wait') nowMs += s.forMs;
          else if (!technician) continue;
          else if (s.do === 'grant') {
            const grant = book.grant(s.permission, technician, nowMs + s.forMs);
            const read = readGrant(grant.statement, grant.signature, HOLDER.signKey);
            expect(read).toMatchObject({ sessionId: SESSION, permission: s.permission, number: ++last });
            expect(
              readGrant(grant.statement, grant.signature, technician.signKey),
              'signed by nobody else',
            ).toBeUndefined();
            model.set(name(s.who, s.permission), nowMs + s.forMs);
          } else if (s.do === 'drop') {
            book.drop(s.permission, technician.signKey);
            lose(s.who, s.permission);
          } else if (s.do === 'dropKey') {
            book.dropKey(technician.signKey);
            for (const p of allPermissions) model.delete(name(s.who, p));
          } else {
            const told = { [technician.id]: { [s.permission]: { name: s.standing, atMs: 0 } } };
            const participants = {
              ...withEverybody().participants,
              [technician.id]: { ...technician, isGone: s.isGone } as unknown as Participant,
            };
            book.follow(withEverybody({ standings: told as unknown as SessionState['standings'], participants }));
            if (s.isGone) for (const p of allPermissions) model.delete(name(s.who, p));
            if (s.standing === 'takenBack' || s.standing === 'over') lose(s.who, s.permission);
          }
          for (const [i, { signKey }] of technicians.entries())
            for (const p of allPermissions)
              expect(book.holds(p, signKey, nowMs), `${i} ${p}`).toBe(nowMs < (model.get(name(i, p)) ?? -1));
          const ends = [...model.values()].filter((endsAtMs) => endsAtMs > nowMs);
          expect(book.nextEndMs(nowMs)).toBe(ends.length ? Math.min(...ends) : undefined);
        }
        const stranger = makeKeys().signKey;
        expect(allPermissions.filter((p) => book.holds(p, stranger, nowMs))).toEqual([]);
        book.follow(withEverybody({ phase: { name: 'ended', reason: 'stop' } as unknown as SessionState['phase'] }));
        expect(book.isEmpty, 'nothing outlives the session').toBe(true);
      }),
      runs(),
    );
  });

  it('that are chosen together last no longer than a yes to them may, and come in the order in which they need each other', () => {
    const [pim] = technicians;
    const book = new GrantBook(HOLDER, SESSION, 0);
    const chosen: Permission[] = ['work-alone', 'control-input', 'view-screen'];
    const day = 86_400_000;
    const grants = book.grantChosen(chosen, pim as unknown as Participant, withEverybody(), {
      nowMs: 0,
      endsAtMs: day,
    });
    const read = grants.map((g) => readGrant(g.statement, g.signature, HOLDER.signKey));
    expect(read.map((g) => g?.permission)).toEqual(['view-screen', 'control-input', 'work-alone']);
    expect(read.map((g) => g?.endsAtMs)).toEqual([day, day, rulesOf('work-alone').longestMs]);
    expect(read.map((g) => g?.number)).toEqual([1, 2, 3]);
  });
});
