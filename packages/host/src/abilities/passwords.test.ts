import type { LiveConnection } from '@porch/client';
import { newSession, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { makeKeys } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { GrantBook, type PasswordField } from '../index.ts';
import { passwords } from './passwords.ts';

const myKeys = makeKeys();

/** The ability with a port that says what it is told to. */
function world() {
  const time = new VirtualClock();
  let tell: (field: PasswordField | undefined) => void = () => undefined;
  let keptOut = 0;
  const state: SessionState = {
    ...newSession,
    holderId: 'me',
    participants: { me: participantOf('me', 2, 'doorstep', { keys: myKeys }) },
  };
  const connection = { participantId: 'me', state, on: () => () => undefined } as unknown as LiveConnection;
  const port = {
    noticesPasswords: true,
    onPassword: (listener: typeof tell) => {
      tell = listener;
      return () => (tell = () => undefined);
    },
    keepNotificationsOut: () => {
      keptOut++;
      return () => void keptOut--;
    },
  };
  const { kit, facts } = fakeKit(connection, new GrantBook(myKeys, 'a session', 0), { secrets: port }, undefined, time);
  let isPrivate = false;
  kit.shared.isPrivate = () => isPrivate;
  const running = passwords.begin(kit);
  return {
    time,
    running,
    facts,
    kit,
    say: (field: PasswordField | undefined) => tell(field),
    setPrivate: (isOn: boolean) => {
      isPrivate = isOn;
      running.changed?.();
    },
    pauses: (permission: 'view-screen' | 'fetch-files' = 'view-screen') => running.pauses?.(permission, 'pim'),
    bar: () => running.banner?.({ what: 'sees your screen', besides: [] }),
    get keptOut() {
      return keptOut;
    },
  };
}

it('rests what nobody else is to see while nobody is sure where the field lies, until the keyboard goes on or the person says so', () => {
  const w = world();
  w.say({ id: 1, isCovered: false });
  expect(w.pauses()).toBe('they are typing a password');
  expect(w.pauses('fetch-files'), 'what shows nothing goes on').toBeUndefined();
  expect(w.bar()).toEqual({ what: 'sees nothing: you are typing a password', besides: [], isPrivate: true });
  expect(w.kit.shared.endPasswordPause()).toBe(true);
  expect(w.pauses()).toBeUndefined();
  expect(w.kit.shared.endPasswordPause(), 'once').toBe(false);
  // Another field is another password.
  w.say({ id: 2, isCovered: false });
  expect(w.pauses()).toBe('they are typing a password');
  // From one field to the next the picture does not flicker.
  w.say(undefined);
  expect(w.pauses()).toBe('they are typing a password');
  w.time.advance(500);
  expect(w.pauses()).toBeUndefined();
  w.say({ id: 3, isCovered: true });
  expect(w.pauses(), 'its field alone is covered').toBeUndefined();
  expect(w.bar()).toEqual({ what: 'sees your screen', besides: ['your password is covered'] });
});

it('holds to it in whatever order it comes, tells what lasts and nothing more often, and keeps notifications out meanwhile', async () => {
  const Step = fc.oneof(
    fc.record({ is: fc.constant('field' as const), id: fc.integer({ min: 1, max: 3 }), isCovered: fc.boolean() }),
    fc.constant({ is: 'none' as const }),
    fc.constant({ is: 'go on' as const }),
    fc.record({ is: fc.constant('private' as const), isOn: fc.boolean() }),
    fc.record({ is: fc.constant('time' as const), ms: fc.integer({ min: 1, max: 3_000 }) }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(Step, { maxLength: 60 }), async (steps) => {
      const w = world();
      const toldAtMs: number[] = [];
      let field: PasswordField | undefined;
      let last: PasswordField | undefined;
      let dismissed: number | undefined;
      let isPrivate = false;
      let goneAtMs = 0;
      for (const step of steps) {
        const before = w.facts.length;
        if (step.is === 'field') w.say((last = field = { id: step.id, isCovered: step.isCovered }));
        else if (step.is === 'none') {
          if (field) goneAtMs = w.time.nowMs();
          w.say((field = undefined));
        } else if (step.is === 'go on') {
          if (w.kit.shared.endPasswordPause()) dismissed = last?.id;
        } else if (step.is === 'private') w.setPrivate((isPrivate = step.isOn));
        else
          for (let ms = 0; ms < step.ms; ms += 50) {
            const had = w.facts.length;
            w.time.advance(50);
            if (w.facts.length > had) toldAtMs.push(w.time.nowMs());
          }
        if (!field && w.time.nowMs() - goneAtMs >= 400) dismissed = undefined;
        if (step.is !== 'time') expect(w.facts.length, 'nothing is told at once').toBe(before);
        // At once, and never later: whoever types for nobody else is seen by nobody.
        if (field && !field.isCovered && field.id !== dismissed) expect(w.pauses()).toBeDefined();
        if (field?.isCovered) expect(w.pauses()).toBeUndefined();
        if (field || isPrivate) expect(w.keptOut).toBe(1);
      }
      for (const [i, atMs] of toldAtMs.entries())
        if (i) expect(atMs - (toldAtMs[i - 1] ?? 0)).toBeGreaterThanOrEqual(1_950);
      w.say(undefined);
      w.setPrivate(false);
      w.time.advance(5_000);
      expect(w.pauses()).toBeUndefined();
      expect(w.keptOut).toBe(0);
      expect(w.facts.at(-1)?.type ?? 'passwords/tellEnded').toBe('passwords/tellEnded');
      await w.running.close();
    }),
    runs(),
  );
});
