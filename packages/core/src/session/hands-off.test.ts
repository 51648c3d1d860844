import { participantOf } from '@porch/testkit/participant';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isRefusal } from '../decision.ts';
import { isConfirmed, type KernelState, type Standings } from '../kernel/state.ts';
import { apartFrom, rulesOf, type Permission } from '../permission/permission.ts';
import type { PermissionStanding } from '../permission/permission-rules.ts';
import { PolicyBook } from '../policy/policy-book.ts';
import { decideSession, type DecideContext } from './decide.ts';
import { evolveSession } from './evolve.ts';
import type { SessionCommand } from './session-commands.ts';
import { newSession, type SessionState } from './session-state.ts';

const NOW_MS = 1_000_000;
const uuid = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const [PIM, RUNE, DOORSTEP] = [uuid(1), uuid(2), uuid(3)];
const context: DecideContext = {
  sessionId: uuid(9),
  nowMs: NOW_MS,
  policy: new PolicyBook([]).policyFor(undefined, 0),
  mayAsk: () => true,
  readGrant: () => undefined,
  isWritten: () => true,
  nameOf: () => undefined,
  brief: () => '',
};
const allowed = (forMs = 60_000): PermissionStanding => ({ name: 'allowed', grantNumber: 1, endsAtMs: NOW_MS + forMs });
const waiting = (forMs = 60_000): PermissionStanding => ({
  name: 'waiting',
  askId: uuid(8),
  expiresAtMs: NOW_MS + forMs,
});
const works: Standings = { 'view-screen': allowed(), 'control-input': allowed() };
const session = (change: Partial<KernelState> = {}): SessionState => ({
  ...newSession,
  phase: { name: 'live', sinceMs: 0 },
  hasAccepted: true,
  identity: 'confirmed-by-ticket',
  holderId: DOORSTEP,
  participants: {
    [PIM]: participantOf(PIM, 1, 'lead'),
    [RUNE]: participantOf(RUNE, 2, 'colleague'),
    [DOORSTEP]: participantOf(DOORSTEP, 3, 'doorstep'),
  },
  standings: { [PIM]: works },
  ...change,
});
const sent = (state: SessionState, command: SessionCommand, by: string) => decideSession(state, command, by, context);
const asked = (state: SessionState, permissions: Permission[], by = PIM) => {
  const decision = sent(state, { type: 'askPermissions', askId: uuid(7), permissions }, by);
  return isRefusal(decision) ? decision.refused : 'asked';
};

describe('asking for what a fraudster would ask first', () => {
  it('is refused while only the customer says who they are', () => {
    for (const identity of ['unknown', 'said-so-themselves'] as const)
      for (const permission of ['block-input', 'cover-screen'] as const)
        expect(asked(session({ identity }), [permission])).toBe('IDENTITY_UNCONFIRMED');
    for (const identity of ['confirmed-by-ticket', 'confirmed-by-directory'] as const)
      expect(asked(session({ identity }), ['cover-screen'])).toBe('asked');
  });

  it('is refused on a device whose label is one of the desk’s, however it is written', () => {
    for (const deviceLabel of ['bridge', ' Bridge ', 'CLINICAL'])
      expect(asked(session({ deviceLabel }), ['block-input'])).toBe('LABEL_FORBIDS');
    expect(asked(session({ deviceLabel: 'kiosk' }), ['block-input'])).toBe('asked');
    expect(asked(session({ deviceLabel: 'bridge' }), ['draw-on-screen'])).toBe('asked');
  });

  it('never comes together with fetching files or a command line, whoever has or is asked for what', () => {
    const some = ['block-input', 'cover-screen', 'fetch-files', 'use-command-line', 'draw-on-screen'] as const;
    const standing = fc.option(fc.constantFrom(allowed(), waiting(), allowed(-1), waiting(-1)), { nil: undefined });
    const standings = fc
      .record(Object.fromEntries(some.map((permission) => [permission, standing])))
      .map((held) => ({ ...works, ...held }) as Standings);
    let refused = 0;
    fc.assert(
      fc.property(
        standings,
        standings,
        fc.uniqueArray(fc.constantFrom(...some), { minLength: 1, maxLength: 3 }),
        (pims, runes, wanted) => {
          const state = session({ standings: { [PIM]: pims, [RUNE]: runes } });
          const isOn = (one: PermissionStanding | undefined) =>
            (one?.name === 'allowed' && one.endsAtMs > NOW_MS) || (one?.name === 'waiting' && one.expiresAtMs > NOW_MS);
          const held = some.filter((permission) => isOn(pims[permission]) || isOn(runes[permission]));
          const isApart = wanted.some((one) =>
            apartFrom(one).some((other) => [...held, ...wanted].includes(other as never)),
          );
          const answer = asked(state, wanted);
          if (isApart) expect(answer).not.toBe('asked');
          if (answer === 'NEVER_TOGETHER') {
            refused++;
            expect(isApart).toBe(true);
          }
        },
      ),
      runs(),
    );
    expect(refused).toBeGreaterThan(10);
  });

  it('lasts five minutes at most, alone, and says so in the catalogue', () => {
    for (const permission of ['block-input', 'cover-screen'] as const)
      expect(rulesOf(permission)).toMatchObject({ longestMs: 300_000, isSensitive: true, needs: 'control-input' });
    expect(isConfirmed(newSession)).toBe(false);
  });
});

describe('what rests', () => {
  const tell = (state: SessionState, command: SessionCommand, by = DOORSTEP): SessionState => {
    const decision = sent(state, command, by);
    if (isRefusal(decision)) throw new Error(decision.refused);
    return decision.reduce((s, event) => evolveSession(s, event, NOW_MS), state);
  };
  const resting = (state: SessionState) => state.slices['hands-off'].resting;
  const begun = (what: 'input' | 'screen', fact: number) =>
    ({ type: 'hands-off/tellBegun', participantId: PIM, what, fact }) as const;
  const both = () => {
    const granted = { 'block-input': allowed(), 'cover-screen': allowed() };
    const state = session({ standings: { [PIM]: { ...works, ...granted } } });
    return tell(tell(state, begun('input', 1)), begun('screen', 2));
  };

  it('is told by whoever holds the consent alone, and ends with the permission, what it needs, and who leaves', () => {
    expect(sent(both(), begun('input', 3), PIM)).toEqual({ refused: 'NOT_THE_CONSENT_HOLDER' });
    expect(resting(both())).toEqual({ input: PIM, screen: PIM });
    const withdrawn = (permission: Permission) =>
      resting(tell(both(), { type: 'withdrawPermission', participantId: PIM, permission, why: 'enough', fact: 3 }));
    expect(withdrawn('block-input')).toEqual({ screen: PIM });
    expect(withdrawn('control-input')).toEqual({});
    for (const who of [PIM, DOORSTEP])
      expect(resting(tell(both(), { type: 'leaveSession', reason: 'done' }, who))).toEqual({});
  });

  it('asks somebody to step back only while mouse and keyboard may be used, once, and until it is over', () => {
    const ask = (isAsked: boolean) => ({ type: 'hands-off/askStepBack', isAsked }) as const;
    expect(sent(session({ standings: {} }), ask(true), PIM)).toEqual({ refused: 'NOT_GRANTED' });
    const state = tell(session(), ask(true), PIM);
    expect(state.slices['hands-off'].stepBackFor).toBe(PIM);
    expect(sent(state, ask(true), PIM)).toEqual([]);
    expect(tell(state, ask(false), PIM).slices['hands-off'].stepBackFor).toBeUndefined();
    const gone = tell(state, {
      type: 'withdrawPermission',
      participantId: PIM,
      permission: 'control-input',
      why: 'x',
      fact: 1,
    });
    expect(gone.slices['hands-off'].stepBackFor).toBeUndefined();
  });
});
