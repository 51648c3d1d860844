import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { isRefusal } from '../decision.ts';
import { mayReadPersonal } from '../ledger/readers.ts';
import { BesidePart, UNKNOWN_PART } from '../people/part.ts';
import { draftBrief, draftNote } from '../ledger/drafts.ts';
import type { LedgerEntry } from '../ledger/entry.ts';
import { replay } from '../ledger/replay.ts';
import { tellToCustomer } from '../ledger/to-customer.ts';
import { tellToTechnicians } from '../ledger/to-technicians.ts';
import { ledger } from '@porch/words/ledger';
import { languages } from '../language.ts';
import type { GrantStatement } from '../kernel/decider.ts';
import { nextPlannedAsk, plannedLeft } from '../kernel/planned/next-ask.ts';
import { isOver, leadOf, partOfTechnician, presentAs } from '../kernel/state.ts';
import { allPermissions, rulesOf, type Permission } from '../permission/permission.ts';
import { isEffective } from '../permission/permission-rules.ts';
import { PolicyBook } from '../policy/policy-book.ts';
import { decideSession, type DecideContext } from './decide.ts';
import { evolveSession } from './evolve.ts';
import type { SessionCommand } from './session-commands.ts';
import { SessionEvent } from './session-events.ts';
import { newSession, type SessionState } from './session-state.ts';
import { mayWatch } from './streams.ts';
import { decideTimePassed } from './time-passes.ts';

const reader = { book: ledger.en, timeZone: 'UTC' };
const SESSION = '00000000-0000-4000-8000-000000000001';
const uuid = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const people = {
  pim: { id: uuid(11), seat: 1, role: 'technician', technicianId: 'pim' },
  rune: { id: uuid(12), seat: 2, role: 'technician', technicianId: 'rune' },
  page: { id: uuid(13), seat: 3, role: 'customer-page', technicianId: undefined },
  doorstep: { id: uuid(14), seat: 4, role: 'doorstep', technicianId: undefined },
  noor: { id: uuid(15), seat: 5, role: 'technician', technicianId: 'noor' },
} as const;
type Who = keyof typeof people;
const keyOf = (who: string) => who.padEnd(64, '0');

/** A toy signature: whose key, and what it says. Only `doorstep` can make the ones that count here. */
const sign = (who: Who, grant: GrantStatement) => ({
  statement: JSON.stringify(grant),
  signature: `signed by ${keyOf(who)}`,
});
const context = (nowMs: number, entries: readonly LedgerEntry[]): DecideContext => ({
  sessionId: SESSION,
  nowMs,
  policy: {
    ...new PolicyBook([]).policyFor(undefined, 0),
    asks: { usual: { openMs: 90_000, againMs: 20 }, sensitive: { openMs: 90_000, againMs: 20 } },
  },
  mayAsk: (technicianId, permission) => technicianId === 'pim' || permission !== 'fetch-files',
  readGrant: (statement, signature, key) =>
    signature === `signed by ${key}` ? (JSON.parse(statement) as GrantStatement) : undefined,
  isWritten: () => true,
  nameOf: (id) => ({ rune: 'Rune Takahashi', noor: 'Noor Castellane' })[id],
  brief: (remark) => draftBrief(entries, remark, reader),
});

/** A session that keeps its own ledger, so that every step can be looked at. */
class Played {
  state: SessionState = newSession;
  entries: LedgerEntry[] = [];
  nowMs = 1_000;

  constructor() {
    this.apply([
      {
        type: 'sessionPrepared',
        by: 'technician:pim',
        technicianId: 'pim',
        behind: 'nothing',
        personal: { technicianName: 'Pim Aldersey', purpose: 'Printing' },
      },
    ]);
  }
  apply(events: readonly SessionEvent[]): void {
    for (const event of events) {
      this.entries.push({ seq: this.entries.length + 1, atMs: this.nowMs, event: SessionEvent.parse(event), hash: '' });
      this.state = evolveSession(this.state, event, this.nowMs);
    }
  }
  join(who: Who): void {
    const p = people[who];
    if (this.state.participants[p.id]) return;
    const part = p.technicianId && partOfTechnician(this.state, p.technicianId);
    if (p.technicianId && !part) return;
    this.apply([
      {
        type: 'participantJoined',
        by: p.id,
        participantId: p.id,
        seat: p.seat,
        role: p.role,
        ...(part ? { part } : {}),
        ...(p.technicianId ? { technicianId: p.technicianId } : {}),
        signKey: keyOf(who),
        agreeKey: keyOf(`${who}a`),
        way: 'test',
        ...(p.role === 'doorstep' ? { cannot: { 'hear-sound': 'not-in-this-release' as const } } : {}),
      },
    ]);
  }
  send(who: Who, command: SessionCommand): string {
    const decision = decideSession(this.state, command, people[who].id, context(this.nowMs, this.entries));
    if (isRefusal(decision)) return decision.refused;
    this.apply(decision);
    return 'ok';
  }
  /** A holder's own signature on what the open ask asks, unless `by` is somebody else. */
  grant(askId: string, by: Who = 'doorstep', change: Partial<GrantStatement> = {}, from: Who = 'doorstep'): string {
    const ask = this.state.asks[askId];
    const technician = ask && this.state.participants[ask.participantId];
    if (!ask || !technician)
      return this.send(from, { type: 'grantAsk', askId, grants: [{ statement: '{}', signature: 'none' }] });
    const inOrder = allPermissions.filter((one) => ask.permissions.includes(one));
    const grants = inOrder.map((permission, i) =>
      sign(by, {
        sessionId: SESSION,
        permission,
        technicianSignKey: technician.signKey,
        technicianAgreeKey: technician.agreeKey,
        number: this.state.lastGrantNumber + 1 + i,
        endsAtMs: this.nowMs + 1_000_000,
        ...change,
      }),
    );
    return this.send(from, { type: 'grantAsk', askId, grants });
  }
}

function underWay(hasDoorstep = true): Played {
  const p = new Played();
  p.join('pim');
  p.join('page');
  p.send('page', { type: 'introduceCustomer', name: 'Bettina Crole', address: '' });
  p.send('page', { type: 'answerCall', answer: 'i-called' });
  p.send('page', { type: 'acceptSession', noticeVersion: '1' });
  if (hasDoorstep) p.join('doorstep');
  return p;
}
const effective = (state: SessionState, who: Who, permission: Permission, nowMs: number) =>
  isEffective(state.standings[people[who].id]?.[permission], nowMs);

/** The ones that hang together, more often than the rest, so that schedules go deep. */
const somePermission = fc.oneof(
  { weight: 3, arbitrary: fc.constantFrom<Permission>('view-screen', 'control-input', 'give-files', 'fetch-files') },
  { weight: 1, arbitrary: fc.constantFrom(...allPermissions) },
);

/** What may happen, in any order: commands of anybody, fitting or not, and time. */
/* Endings are rare, so that most schedules get far enough for something to be allowed. */
const step = fc.oneof(
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('join' as const),
      who: fc.constantFrom<Who>('pim', 'rune', 'noor', 'page', 'doorstep'),
    }),
  },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('ask' as const),
      who: fc.constantFrom<Who>('pim', 'rune', 'noor', 'page'),
      permissions: fc.uniqueArray(somePermission, { minLength: 1, maxLength: 2 }),
      n: fc.nat(1),
    }),
  },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('grant' as const),
      n: fc.nat(1),
      by: fc.constantFrom<Who>('doorstep', 'doorstep', 'page', 'pim'),
      from: fc.constantFrom<Who>('doorstep', 'doorstep', 'page'),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('offerOwn' as const),
      who: fc.constantFrom<Who>('page', 'page', 'doorstep', 'pim'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('refuse' as const),
      n: fc.nat(1),
      who: fc.constantFrom<Who>('page', 'doorstep', 'pim'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('withdraw' as const),
      who: fc.constantFrom<Who>('page', 'doorstep', 'pim', 'rune'),
      from: fc.constantFrom<Who>('pim', 'rune'),
      permission: somePermission,
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('handover' as const), n: fc.nat(3) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('acceptHandover' as const) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('beside' as const),
      technicianId: fc.constantFrom('rune', 'noor', 'pim', 'nobody'),
      part: fc.constantFrom(...BesidePart.options, undefined),
      by: fc.constantFrom<Who>('pim', 'pim', 'rune', 'page'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('leave' as const),
      who: fc.constantFrom<Who>('pim', 'rune', 'page', 'doorstep'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({ do: fc.constant('end' as const), who: fc.constantFrom<Who>('pim', 'page', 'doorstep') }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('plan' as const),
      permissions: fc.subarray<Permission>(['view-screen', 'control-input', 'fetch-files', 'draw-on-screen']),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('log' as const), who: fc.constantFrom<Who>('pim', 'rune') }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('say' as const), who: fc.constantFrom<Who>('pim', 'page') }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('time' as const), ms: fc.constantFrom(10, 30_000, 100_000) }) },
);
type Step = typeof step extends fc.Arbitrary<infer T> ? T : never;

function take(p: Played, s: Step): void {
  const ask = uuid(100 + ('n' in s ? s.n : 0));
  switch (s.do) {
    case 'join':
      return p.join(s.who);
    case 'ask':
      return void p.send(s.who, { type: 'askPermissions', askId: ask, permissions: s.permissions });
    case 'grant':
      return void p.grant(ask, s.by, {}, s.from);
    case 'offerOwn':
      return void p.send(s.who, { type: 'offerOwnPicture' });
    case 'refuse':
      return void p.send(s.who, { type: 'refuseAsk', askId: ask });
    case 'withdraw':
      return void p.send(s.who, {
        type: 'withdrawPermission',
        participantId: people[s.from].id,
        permission: s.permission,
        why: 'w',
        ...(s.who === 'doorstep' ? { fact: 1 } : {}),
      });
    case 'handover':
      return void p.send('pim', {
        type: 'requestHandover',
        handoverId: uuid(200 + s.n),
        toTechnicianId: 'rune',
        remark: '',
      });
    case 'acceptHandover': {
      if (p.state.handover?.stage === 'offered')
        p.apply([{ type: 'handoverAccepted', by: 'technician:rune', handoverId: p.state.handover.id }]);
      return p.join('rune');
    }
    case 'beside': {
      const { technicianId, part } = s;
      return void p.send(
        s.by,
        part ? { type: 'beside/letIn', technicianId, part } : { type: 'beside/sendAway', technicianId },
      );
    }
    case 'plan': {
      p.send('pim', { type: 'planned/choose', permissions: s.permissions });
      // What would be asked is never what is allowed already, nor anything that stands alone.
      const next = nextPlannedAsk(p.state, people.pim.id);
      expect(next.every((one) => !rulesOf(one).isSensitive && !effective(p.state, 'pim', one, p.nowMs))).toBe(true);
      return;
    }
    case 'leave':
      return void p.send(s.who, { type: 'leaveSession', reason: 'r' });
    case 'end':
      return void p.send(s.who, { type: 'endSession', reason: 'customer', why: 'e' });
    case 'log':
      return void p.send(s.who, { type: 'logOutcome', outcome: 'resolved', note: '', minutes: 1 });
    case 'say':
      return void p.send(s.who, { type: 'sendChat', messageId: uuid(1), text: 'hello' });
    case 'time': {
      p.nowMs += s.ms;
      return p.apply(decideTimePassed(p.state, p.nowMs));
    }
  }
}

describe('whatever happens, in whatever order', () => {
  // Left to itself, fast-check prefers schedules of four or five steps, in which hardly anything is ever allowed.
  const schedule = fc.array(step, { minLength: 5, maxLength: 60, size: 'max' });

  it('a permission is effective only by a grant that the consent holder signed, and never after its end', () => {
    fc.assert(
      fc.property(schedule, fc.boolean(), (steps, hasDoorstep) => {
        const p = underWay(hasDoorstep);
        for (const s of steps) {
          const before = p.state;
          take(p, s);
          for (const who of ['pim', 'rune', 'noor'] as const)
            for (const permission of allPermissions) {
              if (!effective(p.state, who, permission, p.nowMs)) continue;
              const isNew = !effective(before, who, permission, p.nowMs);
              const holder = (['page', 'doorstep'] as const).find((h) => people[h].id === p.state.holderId);
              if (isNew) expect(s).toMatchObject({ do: 'grant', by: holder, from: holder });
              if (holder === 'page') expect(rulesOf(permission).worksInBrowser).toBe(true);
              expect(permission, 'what the holder cannot do').not.toBe('hear-sound');
              expect(isOver(p.state), 'nothing is allowed after the end').toBe(false);
              expect(p.state.holderId, 'nothing is allowed without a holder').toBeDefined();
              expect(p.state.participants[people[who].id]?.isGone).toBe(false);
              expect(['lead', 'colleague'], 'who only looks on asks for nothing').toContain(
                p.state.participants[people[who].id]?.part,
              );
              const { needs } = rulesOf(permission);
              if (needs) expect(effective(p.state, who, needs, p.nowMs), `${permission} needs ${needs}`).toBe(true);
            }
        }
      }),
      runs(),
    );
  });

  it('replaying the events gives the live state, and every event has a sentence for both sides', () => {
    fc.assert(
      fc.property(schedule, (steps) => {
        const p = underWay();
        for (const s of steps) take(p, s);
        expect(replay(p.entries)).toEqual(p.state);
        const told = languages.flatMap((one) => [
          tellToTechnicians(p.entries, ledger[one]),
          tellToCustomer(p.entries, ledger[one]),
        ]);
        for (const { sentence } of told.flat()) expect(sentence).not.toMatch(/undefined|\[object|[{}]/);
        expect(draftNote(p.entries, reader)).toContain('Bettina Crole');
      }),
      runs(),
    );
  });

  it('no impossible state is reached: one lead at most, asks only while live, an ended session stays ended', () => {
    fc.assert(
      fc.property(schedule, (steps) => {
        const p = underWay();
        let wasOver = false;
        for (const s of steps) {
          take(p, s);
          expect(wasOver && !isOver(p.state)).toBe(false);
          wasOver = isOver(p.state);
          if (wasOver) expect([Object.keys(p.state.asks), p.state.handover]).toEqual([[], undefined]);
          if (presentAs(p.state, 'lead').length > 0) expect(presentAs(p.state, 'lead')).toHaveLength(1);
          for (const ask of Object.values(p.state.asks))
            expect(p.state.participants[ask.participantId]?.isGone).toBe(false);
        }
      }),
      runs(),
    );
  });

  it('what the holder reports as a fact is never refused, not even after the end or after it left', () => {
    fc.assert(
      fc.property(schedule, (steps) => {
        const p = underWay();
        for (const s of steps) take(p, s);
        for (const command of [
          { type: 'withdrawPermission', participantId: people.pim.id, permission: 'view-screen', why: 'w', fact: 9 },
          { type: 'refuseAsk', askId: uuid(100), fact: 10 },
          { type: 'stopControl', participantId: people.pim.id, why: 'w', clicks: 1, keys: 1, fact: 11 },
          { type: 'endSession', reason: 'stop', why: 's', fact: 12 },
          { type: 'leaveSession', reason: 'l', fact: 13 },
        ] as const)
          expect(p.send('doorstep', command)).toBe('ok');
      }),
      runs(),
    );
  });
});

describe('a page that shows by itself', () => {
  const fromPage = () => {
    const p = underWay(false);
    expect(p.send('page', { type: 'offerOwnPicture' })).toBe('ok');
    return p;
  };
  const ask = (p: Played, ...permissions: Permission[]) =>
    p.send('pim', { type: 'askPermissions', askId: uuid(100), permissions });

  it('can be looked at, and holds nothing else', () => {
    const p = fromPage();
    expect(ask(p, 'view-screen', 'control-input')).toBe('NEEDS_DOORSTEP');
    expect(ask(p, 'give-files')).toBe('NEEDS_DOORSTEP');
    expect(ask(p, 'view-screen')).toBe('ok');
    expect(p.grant(uuid(100), 'page', { permission: 'control-input' }, 'page')).toBe('GRANT_INVALID');
    expect(p.grant(uuid(100), 'page', {}, 'page')).toBe('ok');
    expect(effective(p.state, 'pim', 'view-screen', p.nowMs)).toBe(true);
  });

  it('makes way for Doorstep: what it held ends, what is asked stays asked, and it cannot come before again', () => {
    const held = fromPage();
    ask(held, 'view-screen');
    held.grant(uuid(100), 'page', {}, 'page');
    held.join('doorstep');
    expect(effective(held.state, 'pim', 'view-screen', held.nowMs)).toBe(false);
    held.send('page', { type: 'offerOwnPicture' });
    expect(held.state.holderId).toBe(people.doorstep.id);

    const asked = fromPage();
    ask(asked, 'view-screen');
    asked.join('doorstep');
    expect(asked.grant(uuid(100), 'page', {}, 'page')).toBe('NOT_THE_CONSENT_HOLDER');
    expect(asked.grant(uuid(100))).toBe('ok');
  });
});

describe('consent', () => {
  const asked = (permissions: Permission[] = ['view-screen']) => {
    const p = underWay();
    p.send('pim', { type: 'askPermissions', askId: uuid(100), permissions });
    return p;
  };

  it('refuses a grant for another key, another session, an old number or an end in the past', () => {
    for (const change of [
      { technicianSignKey: keyOf('rune') },
      { technicianAgreeKey: keyOf('x') },
      { sessionId: uuid(9) },
      { number: 0 },
      { endsAtMs: 1 },
      { permission: 'control-input' as const },
    ])
      expect(asked().grant(uuid(100), 'doorstep', change)).toBe('GRANT_INVALID');
    expect(asked().grant(uuid(100))).toBe('ok');
  });
  it('is taken back only by the customer; what a technician gives back, or what ends with something else, is over', () => {
    const names = (p: Played) =>
      (['view-screen', 'control-input'] as const).map((one) => p.state.standings[people.pim.id]?.[one]?.name);
    const allowed = () => {
      const p = asked(['view-screen', 'control-input']);
      expect(p.grant(uuid(100))).toBe('ok');
      expect(names(p)).toEqual(['allowed', 'allowed']);
      return p;
    };
    const end = (who: Who, permission: Permission) => {
      const p = allowed();
      const { id } = people.pim;
      expect(p.send(who, { type: 'withdrawPermission', participantId: id, permission, why: 'enough' })).toBe('ok');
      return p;
    };
    expect(names(end('page', 'control-input'))).toEqual(['allowed', 'takenBack']);
    expect(names(end('doorstep', 'view-screen')), 'with what needs it').toEqual(['takenBack', 'takenBack']);
    expect(names(end('pim', 'control-input'))).toEqual(['allowed', 'over']);
    const gone = allowed();
    expect(gone.send('doorstep', { type: 'leaveSession', reason: 'closed', fact: undefined })).toBe('ok');
    expect(names(gone)).toEqual(['over', 'over']);
    const ended = allowed();
    expect(ended.send('pim', { type: 'endSession', reason: 'technician', why: '', fact: undefined })).toBe('ok');
    expect(names(ended)).toEqual(['over', 'over']);
  });

  it('does not let a page grant for Doorstep, but lets it refuse and take back', () => {
    const p = asked();
    expect(p.send('page', { type: 'grantAsk', askId: uuid(100), grants: [sign('page', {} as GrantStatement)] })).toBe(
      'NOT_THE_CONSENT_HOLDER',
    );
    p.grant(uuid(100));
    expect(effective(p.state, 'pim', 'view-screen', p.nowMs)).toBe(true);
    expect(
      p.send('page', {
        type: 'withdrawPermission',
        participantId: people.pim.id,
        permission: 'view-screen',
        why: 'no',
      }),
    ).toBe('ok');
    expect(effective(p.state, 'pim', 'view-screen', p.nowMs)).toBe(false);
  });
  it('asks for no recording of somebody under age, and for no coming back to a computer that is not theirs', () => {
    const p = underWay();
    const ask = (permission: Permission) =>
      p.send('pim', { type: 'askPermissions', askId: uuid(130), permissions: [permission] });
    const introduce = (computer: 'own' | 'shared' | 'others', isMinor: boolean) =>
      p.send('page', { type: 'introduceCustomer', name: 'Bettina Crole', address: '', computer, isMinor });
    for (const computer of ['shared', 'others'] as const) {
      introduce(computer, false);
      expect(ask('keep-device')).toBe('NOT_THEIR_COMPUTER');
    }
    introduce('own', true);
    expect(ask('see-camera')).toBe('CUSTOMER_IS_MINOR');
    expect(ask('keep-device')).toBe('ok');
  });
  it('lets the customer alone begin a private moment, and end it where it began or at the computer itself', () => {
    const p = underWay();
    const setPrivate = (who: Who, isOn: boolean) => p.send(who, { type: 'setPrivate', isOn });
    expect(setPrivate('pim', true)).toBe('WRONG_ROLE');
    setPrivate('page', true);
    setPrivate('doorstep', true);
    setPrivate('page', false);
    expect(p.state.slices.presence.privateAt).toEqual([people.doorstep.id]);
    setPrivate('page', true);
    setPrivate('doorstep', false);
    expect(p.state.slices.presence.privateAt).toEqual([]);
  });
  it('puts seeing before working, and asks a sensitive one alone', () => {
    const p = underWay();
    const ask = (permissions: Permission[]) => p.send('pim', { type: 'askPermissions', askId: uuid(101), permissions });
    expect(ask(['control-input'])).toBe('PERMISSION_NEEDS_OTHER');
    expect(ask(['view-screen', 'fetch-files'])).toBe('ASKED_ALONE');
    expect(ask(['view-screen', 'control-input'])).toBe('ok');
    p.grant(uuid(101));
    expect(ask(['view-screen']), 'what one has is not asked again').toBe('ALREADY_ALLOWED');
  });
  it('takes everything away when Doorstep goes, and when the screen is lost', () => {
    for (const command of [
      { type: 'leaveSession', reason: 'closed' },
      { type: 'loseScreen', why: 'gone', fact: 1 },
    ] as const) {
      const p = asked(['view-screen', 'control-input']);
      p.grant(uuid(100));
      expect(effective(p.state, 'pim', 'control-input', p.nowMs)).toBe(true);
      p.send('doorstep', command);
      for (const permission of allPermissions) expect(effective(p.state, 'pim', permission, p.nowMs)).toBe(false);
    }
  });
  it('takes control away with the screen', () => {
    const p = asked(['view-screen', 'control-input']);
    p.grant(uuid(100));
    p.send('doorstep', {
      type: 'withdrawPermission',
      participantId: people.pim.id,
      permission: 'view-screen',
      why: 'private',
      fact: 1,
    });
    expect(effective(p.state, 'pim', 'control-input', p.nowMs)).toBe(false);
  });
});

describe('beside the lead', () => {
  const letIn = (p: Played, technicianId: string, part: BesidePart = 'colleague', by: Who = 'pim') =>
    p.send(by, { type: 'beside/letIn', technicianId, part });
  const ask = (p: Played, who: Who, n: number, ...permissions: Permission[]) =>
    p.send(who, { type: 'askPermissions', askId: uuid(n), permissions });

  it('a colleague whom the lead lets in asks for themselves, and each keeps and loses only their own', () => {
    const p = underWay();
    p.join('rune');
    expect(p.state.participants[people.rune.id], 'nobody comes in unasked').toBeUndefined();
    expect([letIn(p, 'nobody'), letIn(p, 'pim'), letIn(p, 'rune', 'colleague', 'page')]).toEqual([
      'NOT_PRESENT',
      'NOT_PRESENT',
      'NOT_THE_LEAD',
    ]);
    expect(letIn(p, 'rune')).toBe('ok');
    p.join('rune');
    ask(p, 'pim', 100, 'view-screen', 'control-input');
    p.grant(uuid(100));
    expect(effective(p.state, 'rune', 'view-screen', p.nowMs), 'nothing is shared').toBe(false);
    expect(ask(p, 'rune', 101, 'view-screen')).toBe('ok');
    expect(p.grant(uuid(101))).toBe('ok');
    const sees = () => (['pim', 'rune'] as const).map((who) => effective(p.state, who, 'view-screen', p.nowMs));
    const watches = () =>
      (['pim', 'rune'] as const).map((who) => mayWatch(p.state, people[who].id, people.doorstep.id, p.nowMs));
    expect([sees(), watches()]).toEqual([
      [true, true],
      [true, true],
    ]);
    const takeBack = (who: Who) =>
      p.send('doorstep', {
        type: 'withdrawPermission',
        participantId: people[who].id,
        permission: 'view-screen',
        why: 'enough',
      });
    takeBack('pim');
    expect([sees(), watches()]).toEqual([
      [false, true],
      [false, true],
    ]);
    expect(p.send('rune', { type: 'askToTry' })).toBe('NOT_THE_LEAD');
    expect(p.send('rune', { type: 'endSession', reason: 'technician', why: '' })).toBe('NOT_THE_LEAD');
    expect(p.send('pim', { type: 'beside/sendAway', technicianId: 'rune' })).toBe('ok');
    expect([sees(), p.state.participants[people.rune.id]?.isGone, leadOf(p.state)?.id]).toEqual([
      [false, false],
      true,
      people.pim.id,
    ]);
  });

  it('who looks on may say and ask nothing, and reads what the desk keeps to itself only if they are of it', () => {
    for (const part of ['adviser', 'coach'] as const) {
      const p = underWay();
      letIn(p, 'noor', part);
      p.join('noor');
      expect(p.state.participants[people.noor.id]).toMatchObject({ side: 'desk', part });
      expect(ask(p, 'noor', 100, 'view-screen')).toBe('WRONG_ROLE');
      expect(p.send('noor', { type: 'sendChat', messageId: uuid(1), text: 'hello' })).toBe('WRONG_ROLE');
      expect(letIn(p, 'noor', 'colleague'), 'who is here does not become something else').toBe('ALREADY_HERE');
      const outcome = { type: 'outcomeLogged', by: people.pim.id, outcome: 'resolved', minutes: 1 } as const;
      const reader = { id: people.noor.id, part, proof: undefined };
      expect(mayReadPersonal({ ...outcome, personal: { note: 'x' } }, reader)).toBe(part === 'coach');
      expect(p.send('noor', { type: 'leaveSession', reason: 'done' })).toBe('ok');
    }
  });

  it('a colleague who was there before a handover to them fell through stays, and one who takes over leads', () => {
    const p = underWay();
    letIn(p, 'rune');
    p.join('rune');
    const handOver = (n: number) =>
      p.send('pim', { type: 'requestHandover', handoverId: uuid(n), toTechnicianId: 'rune', remark: '' });
    handOver(200);
    take(p, { do: 'acceptHandover' });
    ask(p, 'rune', 100, 'view-screen');
    p.send('doorstep', { type: 'refuseAsk', askId: uuid(100), fact: 1 });
    expect([p.state.handover, p.state.participants[people.rune.id]?.isGone]).toEqual([undefined, false]);
    p.nowMs += 1_000;
    handOver(201);
    take(p, { do: 'acceptHandover' });
    ask(p, 'rune', 101, 'view-screen');
    p.grant(uuid(101));
    expect([leadOf(p.state)?.id, p.state.letIn]).toEqual([people.rune.id, {}]);
  });

  it('is shown nothing that is not the consent holder’s, nor to whoever shows it', () => {
    const p = underWay();
    ask(p, 'pim', 100, 'view-screen');
    p.grant(uuid(100));
    const { pim, page, doorstep } = people;
    const may = (viewer: string, sender: string) => mayWatch(p.state, viewer, sender, p.nowMs);
    expect(may(pim.id, doorstep.id)).toBe(true);
    expect([may(pim.id, page.id), may(page.id, doorstep.id), may(doorstep.id, doorstep.id)]).toEqual([
      false,
      false,
      false,
    ]);
    expect(mayWatch(p.state, pim.id, doorstep.id, p.nowMs + 2_000_000), 'nor after its end').toBe(false);
  });
});

it('somebody of a part that only a later release knows is there, and may do nothing', () => {
  const p = underWay();
  p.apply([
    {
      type: 'participantJoined',
      by: people.rune.id,
      participantId: people.rune.id,
      seat: 9,
      role: 'technician',
      part: 'interpreter',
      technicianId: 'rune',
      signKey: keyOf('rune'),
      agreeKey: keyOf('runea'),
      way: 'sign-in',
    },
  ]);
  expect(p.state.participants[people.rune.id]).toMatchObject({ side: 'desk', part: UNKNOWN_PART });
  expect(p.send('rune', { type: 'askPermissions', askId: uuid(100), permissions: ['view-screen'] })).toBe('WRONG_ROLE');
});

it('what the consent holder’s program can do may change while it runs; nobody else says so', () => {
  const p = underWay();
  const tell = (who: Who, can: string[]) =>
    p.send(who, { type: 'possible/tell', can, cannot: { 'control-input': 'computer-cannot' } });
  expect([tell('pim', []), tell('page', [])]).toEqual(['NOT_THE_CONSENT_HOLDER', 'NOT_THE_CONSENT_HOLDER']);
  expect(tell('doorstep', ['view-screen'])).toBe('ok');
  const { length } = p.entries;
  expect([tell('doorstep', ['view-screen']), p.entries.length], 'the same twice is not written').toEqual([
    'ok',
    length,
  ]);
  const ask = (permissions: Permission[]) => p.send('pim', { type: 'askPermissions', askId: uuid(100), permissions });
  expect([ask(['view-screen', 'control-input']), ask(['give-files'])]).toEqual([
    'NOT_POSSIBLE_HERE',
    'NOT_POSSIBLE_HERE',
  ]);
  expect(tellToTechnicians(p.entries, ledger.en).at(-1)?.sentence).toMatch(/changed; now: see the screen/i);
  expect(tell('doorstep', ['view-screen', 'give-files'])).toBe('ok');
  expect(ask(['give-files'])).toBe('ok');
});

describe('what is planned before the customer is in', () => {
  const plan = (p: Played, permissions: Permission[], who: Who = 'pim') =>
    p.send(who, { type: 'planned/choose', permissions });
  const next = (p: Played) => nextPlannedAsk(p.state, people.pim.id);

  it('is asked once they are, all together with what it needs, and each thing once', () => {
    const p = underWay(false);
    expect(plan(p, ['control-input', 'fetch-files'])).toBe('ok');
    expect(plan(p, ['view-screen', 'control-input', 'fetch-files']), 'the same again is nothing new').toBe('ok');
    expect(p.state.planned).toEqual(['view-screen', 'control-input', 'fetch-files']);
    expect(next(p), 'nobody is asked who is not there').toEqual([]);
    const there = underWay();
    expect(plan(there, ['control-input', 'fetch-files'])).toBe('ok');
    expect(next(there)).toEqual(['view-screen', 'control-input']);
    expect(there.send('pim', { type: 'askPermissions', askId: uuid(100), permissions: next(there) })).toBe('ok');
    expect(next(there)).toEqual([]);
    expect(plannedLeft(there.state, people.pim.id), 'what is asked alone waits').toEqual(['fetch-files']);
  });

  it('is the lead’s to say, and of what the desk lets them ask', () => {
    const p = underWay();
    expect([plan(p, ['view-screen'], 'page'), plan(p, ['view-screen'], 'doorstep')]).toEqual([
      'NOT_THE_LEAD',
      'NOT_THE_LEAD',
    ]);
    p.send('pim', { type: 'endSession', reason: 'technician', why: 'e' });
    expect(plan(p, ['view-screen'])).toBe('SESSION_ENDED');
  });
});

describe('handing over', () => {
  it("moves the session with the customer's yes for the new key, and puts the first technician out", () => {
    const p = underWay();
    p.send('pim', { type: 'askPermissions', askId: uuid(100), permissions: ['view-screen'] });
    p.grant(uuid(100));
    expect(
      p.send('pim', {
        type: 'requestHandover',
        handoverId: uuid(200),
        toTechnicianId: 'rune',
        remark: 'My ferry leaves.',
      }),
    ).toBe('ok');
    take(p, { do: 'acceptHandover' });
    expect(effective(p.state, 'rune', 'view-screen', p.nowMs), 'no right passes on').toBe(false);
    p.send('rune', { type: 'askPermissions', askId: uuid(101), permissions: ['view-screen'] });
    p.grant(uuid(101));
    expect([leadOf(p.state)?.id, p.state.technicianId, p.state.participants[people.pim.id]?.isGone]).toEqual([
      people.rune.id,
      'rune',
      true,
    ]);
    expect(effective(p.state, 'pim', 'view-screen', p.nowMs)).toBe(false);
  });
  it('goes back when nobody answers in time, and when the customer says no', () => {
    const p = underWay();
    p.send('pim', { type: 'requestHandover', handoverId: uuid(200), toTechnicianId: 'rune', remark: '' });
    take(p, { do: 'time', ms: 100_000 });
    expect([p.state.handover, leadOf(p.state)?.id]).toEqual([undefined, people.pim.id]);
    p.send('pim', { type: 'requestHandover', handoverId: uuid(201), toTechnicianId: 'rune', remark: '' });
    take(p, { do: 'acceptHandover' });
    p.send('rune', { type: 'askPermissions', askId: uuid(101), permissions: ['view-screen'] });
    p.send('doorstep', { type: 'refuseAsk', askId: uuid(101), fact: 1 });
    expect([p.state.handover, leadOf(p.state)?.id, p.state.participants[people.rune.id]?.isGone]).toEqual([
      undefined,
      people.pim.id,
      true,
    ]);
  });
});

it('stops when somebody called the customer', () => {
  const p = new Played();
  p.join('page');
  expect(p.send('page', { type: 'answerCall', answer: 'they-called' })).toBe('ok');
  expect(p.state.phase).toMatchObject({ name: 'ended', reason: 'fraud' });
});
