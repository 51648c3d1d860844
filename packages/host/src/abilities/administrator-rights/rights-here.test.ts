import type { SealedLine } from '@porch/client';
import type { Participant, RightsLeave } from '@porch/core';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { makeKeys, type AdministratorRightsMessage } from '@porch/wire';
import { expect, it } from 'vitest';
import type { Kit } from '../../kit.ts';
import type { Question } from '../../ports/question.ts';
import { RightsRefused, type RaisedRights, type RightsPort } from '../../ports/rights-port.ts';
import { RightsHere } from './rights-here.ts';

const PIM = { id: 'pim', seat: 2, signKey: 'pim', name: 'Pim Aldersey' } as Participant;
const RUNE = { id: 'rune', seat: 3, signKey: 'rune' } as Participant;
const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const MINUTE_MS = 60_000;

/** A computer whose administrator's password is “harbour”, with a part that holds rights, and everybody's yes. */
function world({ label, care }: { label?: string; care?: { isNever: boolean } } = {}) {
  const clock = new VirtualClock();
  const sent: AdministratorRightsMessage[] = [];
  const told: { type: string; why?: string; minutes?: number; mayGoOn?: boolean | undefined }[] = [];
  const questions: Question[] = [];
  const may = { isRunning: true };
  const slices = { 'administrator-rights': {} as Record<string, unknown>, 'risky-acts': {} as Record<string, unknown> };
  const open: { lower(): void; mayGoOn: boolean; end(): void }[] = [];
  const raisedRights = (): RaisedRights => {
    let tell: (how: { mayGoOn: boolean }) => void = () => undefined;
    const gone = new Promise<{ mayGoOn: boolean }>((resolve) => (tell = resolve));
    const one = {
      mayGoOn: false,
      lower: () => one.end(),
      end: () => tell({ mayGoOn: one.mayGoOn }),
    };
    open.push(one);
    const service = () => Promise.resolve({ outcome: 'done' as const, says: '' });
    return {
      run: () => Promise.resolve({ code: 0, mayGoOn: false }),
      putBack: () => Promise.resolve({ code: 0, mayGoOn: false }),
      signInOnce: () => Promise.resolve(),
      service,
      lower: () => one.lower(),
      gone,
    };
  };
  const typed = { text: 'harbour' as string | undefined };
  const port: RightsPort = {
    possible: () => Promise.resolve({ password: true }),
    byPassword: async (put) => {
      for (let triesLeft = 3; triesLeft > 0; triesLeft--) {
        const answer = await put({ accounts: ['bettina', 'root'], triesLeft });
        if (!answer) throw new RightsRefused('no password was typed', 'not-typed');
        if (answer.password === 'harbour') return raisedRights();
      }
      throw new RightsRefused('the password was wrong three times', 'wrong-password');
    },
    byLeave: (leave, holder) =>
      leave.signature === 'signed' && holder.prove('nonce')
        ? Promise.resolve(raisedRights())
        : Promise.reject(new Error('no')),
  };
  const kit = {
    ...{ time: clock, isAsking: false, log: { warn: () => undefined, error: () => undefined } },
    connection: { state: { slices, deviceLabel: label }, sessionId: ONE, keys: makeKeys(), serviceNowMs: 0 },
    desk: { carefulLabels: care ? [{ label: label ?? '', ...care }] : [], rightsMs: 30 * MINUTE_MS },
    words: {
      kernel: { technician: 'a technician', yes: 'Yes', no: 'No', readFirst: '', onlyYou: '' },
      administratorRights: {
        ...{ title: 'Password', go: 'Go on', no: 'No', passwordOfOne: 'Password' },
        ...{ again: ({ left }: { left: number }) => `again ${left}`, forWhat: () => 'for', unseen: () => 'unseen' },
        password: () => 'Password',
      },
    },
    held: {
      during: () => ({
        ...may,
        get isRunning() {
          return may.isRunning;
        },
        get state() {
          return { name: may.isRunning ? 'running' : 'over' };
        },
      }),
    },
    ask: (question: Question) => {
      questions.push(question);
      return Promise.resolve(
        typed.text === undefined ? { what: 'no' } : { what: 'yes', choices: [true, false], typed: typed.text },
      );
    },
    changed: () => undefined,
    report: (make: (fact: number) => never) => told.push(make(1)),
  };
  const line = { send: (_seat: number, message: AdministratorRightsMessage) => sent.push(message) > 0 };
  const rights = new RightsHere(kit as unknown as Kit, port, line as unknown as SealedLine<AdministratorRightsMessage>);
  const settle = async () => {
    for (let i = 0; i < 10; i++) await new Promise((resolve) => setImmediate(resolve));
  };
  const raise = async (from = PIM, id = ONE, way: 'password' | 'desk' = 'password') => {
    rights.raise(from, { id, way, what: 'the driver' });
    await settle();
  };
  const refusals = () => sent.flatMap((message) => (message.type === 'refused' ? [message.why] : []));
  return { clock, sent, told, questions, may, slices, open, typed, rights, kit, settle, raise, refusals };
}
const types = (told: readonly { type: string }[]) => told.map(({ type }) => type.split('/')[1]);

it('last as long as the desk says, and fall back by themselves', async () => {
  const w = world();
  await w.raise();
  expect(w.told).toMatchObject([{ type: 'administrator-rights/tellRaised', minutes: 30 }]);
  expect(w.rights.who).toBe('Pim Aldersey');
  expect(w.rights.raisedFor('rune'), 'nobody else has them').toBeUndefined();
  w.clock.advance(30 * MINUTE_MS - 1);
  await w.settle();
  expect(w.rights.raisedFor('pim')).toBeDefined();
  w.clock.advance(1);
  await w.settle();
  expect(w.rights.raisedFor('pim')).toBeUndefined();
  expect(w.told.at(-1)).toMatchObject({ type: 'administrator-rights/tellFell', why: 'time-over' });
});

it('are asked for in a window that no picture shows, again while tries are left, and never twice at once', async () => {
  const w = world();
  w.typed.text = 'wrong';
  await w.raise();
  expect(w.questions.map(({ isSecret, typed }) => isSecret && !!typed)).toEqual([true, true, true]);
  expect(w.questions[1]?.lines[0]).toBe('again 2');
  expect(w.told).toMatchObject([{ type: 'administrator-rights/tellNotRaised', why: 'wrong-password' }]);
  expect(w.refusals()).toEqual(['the password was wrong three times']);
  w.typed.text = 'harbour';
  await w.raise(PIM, TWO);
  await w.raise(PIM, ONE);
  expect(w.refusals().at(-1)).toBe('administrator rights are raised already');
  await w.raise(RUNE, ONE);
  expect(w.rights.raisedFor('rune')).toBeDefined();
});

it('are not waited for any longer when nobody types', async () => {
  const w = world();
  let isTakenAway = false;
  Object.assign(w.kit, {
    ask: (_question: Question, signal: AbortSignal) =>
      new Promise((resolve) =>
        signal.addEventListener('abort', () => {
          isTakenAway = true;
          resolve(undefined);
        }),
      ),
  });
  await w.raise();
  w.clock.advance(3 * MINUTE_MS);
  await w.settle();
  expect(isTakenAway).toBe(true);
  expect(w.refusals()).toEqual(['no password was typed']);
});

it('that came after the permission went were never had', async () => {
  const w = world();
  w.rights.raise(PIM, { id: ONE, way: 'password', what: 'the driver' });
  w.may.isRunning = false;
  await w.settle();
  expect(types(w.told)).not.toContain('tellRaised');
  w.rights.check();
  await w.rights.close();
  expect(w.rights.raisedFor('pim')).toBeUndefined();
});

it('that are taken back are given back at once, and it is said what may go on', async () => {
  const w = world();
  await w.raise();
  const [one] = w.open;
  if (one) one.mayGoOn = true;
  w.may.isRunning = false;
  expect(w.rights.raisedFor('pim')).toBeUndefined();
  w.rights.check();
  await w.settle();
  expect(w.told.at(-1)).toMatchObject({ why: 'not-allowed', mayGoOn: true });
});

it('that were ended at the computer are said to be gone', async () => {
  const w = world();
  await w.raise();
  w.open[0]?.end();
  await w.settle();
  expect(w.told.at(-1)).toMatchObject({ type: 'administrator-rights/tellFell', why: 'gone' });
  await w.raise(PIM, TWO);
  expect(w.rights.raisedFor('pim')).toBeDefined();
});

it('by leave wait for the ledger to have it, for whom it was given, and no longer than it lasts', async () => {
  const w = world();
  const leave = { untilMs: 5 * MINUTE_MS, signature: 'signed' } as RightsLeave;
  await w.raise(PIM, ONE, 'desk');
  w.clock.advance(4_000);
  w.slices['administrator-rights'][ONE] = { byId: 'pim', standing: 'leave', leave };
  w.rights.check();
  await w.settle();
  expect(w.told).toMatchObject([{ type: 'administrator-rights/tellRaised', minutes: 5 }]);
  // Somebody else's leave, and none at all.
  w.slices['administrator-rights'][TWO] = { byId: 'pim', standing: 'leave', leave };
  await w.raise(RUNE, TWO, 'desk');
  expect(w.refusals()).toEqual(['the desk has not given leave for this computer']);
  const none = world();
  await none.raise(PIM, ONE, 'desk');
  none.clock.advance(5_000);
  await none.settle();
  expect(none.refusals()).toEqual(['the desk has not given leave for this computer']);
});

it('need the desk’s leave on a careful device, are never raised where it never does, nor beneath a question', async () => {
  const never = world({ label: 'clinical', care: { isNever: true } });
  await never.raise();
  expect(never.refusals()).toEqual(['the desk never does this on a device with this label']);
  const bridge = world({ label: 'bridge', care: { isNever: false } });
  await bridge.raise();
  expect(bridge.refusals()).toEqual(['a device with this label needs leave for it']);
  const cleared = { act: 'administrator-rights/raise', byId: 'pim', name: 'the driver', standing: 'cleared' };
  bridge.slices['risky-acts'][ONE] = { ...cleared, name: 'something else' };
  await bridge.raise();
  expect(bridge.told).toEqual([]);
  bridge.slices['risky-acts'][ONE] = cleared;
  await bridge.raise();
  expect(types(bridge.told)).toEqual(['tellRaised']);
  const asking = world();
  Object.assign(asking.kit, { isAsking: true });
  await asking.raise();
  expect(asking.refusals()).toEqual(['a question is open at their computer']);
});
