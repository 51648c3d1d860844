import type { LiveConnection } from '@porch/client';
import { newSession, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { makeKeys } from '@porch/wire';
import { describe, expect, it } from 'vitest';
import { GrantBook } from '../index.ts';
import { presence } from './presence.ts';

const myKeys = makeKeys();

/** A desktop that comes and goes behind another one. */
function world(holderId = 'me', wasBehind = false) {
  const state = {
    ...newSession,
    holderId,
    participants: { me: participantOf('me', 2, 'doorstep', { keys: myKeys }) },
    slices: { ...newSession.slices, presence: { ...newSession.slices.presence, isBehind: wasBehind } },
  } as SessionState;
  const connection = { participantId: 'me', state, on: () => () => undefined, serviceNowMs: 0 };
  const front = { isInFront: true, tell: (): void => undefined };
  const port = {
    get isInFront() {
      return front.isInFront;
    },
    onChanged: (listener: () => void) => {
      front.tell = listener;
      return () => (front.tell = () => undefined);
    },
  };
  const { kit, facts } = fakeKit(
    connection as unknown as LiveConnection,
    new GrantBook(myKeys, 'a session', 0),
    { front: port },
    undefined,
    new VirtualClock(),
  );
  let mayBeAlone = false;
  kit.shared.mayBeAlone = () => mayBeAlone;
  const begin = () => presence.begin(kit);
  const told = () => facts.flatMap((fact) => (fact.type === 'presence/tellSwitched' ? [fact.isBehind] : []));
  return {
    ...{ begin, state, told, connection },
    allowAlone: () => (mayBeAlone = true),
    set: (isInFront: boolean) => {
      front.isInFront = isInFront;
      front.tell();
    },
  };
}

describe('a desktop behind another one', () => {
  it('shows nothing and is not worked, at once, and is told as often as it changes', async () => {
    const w = world();
    const running = w.begin();
    const why = (permission: Parameters<NonNullable<typeof running.pauses>>[0]) => running.pauses?.(permission, 'pim');
    expect(why('view-screen')).toBeUndefined();
    w.set(false);
    for (const permission of ['view-screen', 'control-input', 'use-command-line', 'run-runbook'] as const)
      expect(why(permission), permission).toBe('another desktop is in front at their computer');
    expect(why('give-files'), 'what shows nothing goes on').toBeUndefined();
    w.set(false);
    w.set(true);
    expect(why('view-screen')).toBeUndefined();
    expect(w.told()).toEqual([true, false]);
    await running.close();
    w.set(false);
    expect(w.told()).toEqual([true, false]);
  });
  it('goes on where it may be worked while its person is away', () => {
    const w = world();
    w.allowAlone();
    const running = w.begin();
    w.set(false);
    expect(running.pauses?.('view-screen', 'pim')).toBeUndefined();
  });
  it('is told by whoever speaks for the computer, also when they begin there or do so later', () => {
    const w = world('another');
    w.set(false);
    const running = w.begin();
    expect(w.told()).toEqual([]);
    w.connection.state = { ...w.state, holderId: 'me' };
    running.changed?.();
    running.changed?.();
    expect(w.told()).toEqual([true]);
    // An earlier start had said that it was behind, and it is not.
    const again = world('me', true);
    again.begin();
    expect(again.told()).toEqual([false]);
  });
});
