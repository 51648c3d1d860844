import type { SealedLine } from '@porch/client';
import { RunbookAction, textOfAction, type Participant, type RunInSession } from '@porch/core';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { decodeWords, runbookChannel, type RunbookMessage } from '@porch/wire';
import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import type { Kit } from '../../kit.ts';
import type { RunbookPort, ScriptEnded } from '../../ports/runbook-port.ts';
import { RunbookRuns } from './runs.ts';

const PIM = { id: 'pim', seat: 2, signKey: 'pim' } as Participant;
const RUNE = { id: 'rune', seat: 3, signKey: 'rune' } as Participant;
const RUN = '00000000-0000-4000-8000-000000000001';
const actionOf = (more: object = {}) =>
  RunbookAction.parse({
    ...{ name: 'a', title: 'A script', kind: 'script', interpreter: 'sh', body: 'echo', limitSeconds: 60, ...more },
  });

/** A computer on which scripts go on until somebody ends them, with a ledger that says what it is told to say. */
function world(action = actionOf()) {
  const clock = new VirtualClock();
  const sent: RunbookMessage[] = [];
  const told: { type: string; outcome?: string; text?: string }[] = [];
  const leases = { isRunning: true };
  const held = new Set(['run-runbook']);
  const slices = { runbook: {} as Record<string, RunInSession>, 'risky-acts': {} as Record<string, unknown> };
  const state = { slices, deviceLabel: undefined as string | undefined };
  const kit = {
    ...{ time: clock, connection: { state }, isAsking: false, log: { warn: () => undefined, error: () => undefined } },
    desk: { carefulLabels: [{ label: 'bridge', isNever: false }] },
    words: { runbook: { before: () => 'before' } },
    shared: { makeSafePoint: () => Promise.resolve(false) },
    changed: () => undefined,
    held: {
      during: () => ({
        get isRunning() {
          return leases.isRunning;
        },
        get state() {
          return { name: leases.isRunning ? 'running' : 'over' };
        },
      }),
      holds: (permission: string) => held.has(permission),
    },
    report: (make: (fact: number) => never) => told.push(make(1)),
  };
  const scripts: { print: (text: string) => void; end: (ended: ScriptEnded) => void }[] = [];
  const port: RunbookPort = {
    platform: 'linux',
    howRun: () => Promise.resolve({ command: ['/usr/bin/sh', 'script'], folder: '/home', mayGoOn: false }),
    run: (_script, _may, print, signal) =>
      new Promise((resolve) => {
        scripts.push({ print, end: resolve });
        signal.addEventListener('abort', () => resolve({ code: undefined, mayGoOn: false }));
      }),
    whereTo: () => Promise.resolve({ path: '/home/a', isThere: false }),
    put: () => Promise.resolve(),
  };
  const line = {
    send: (_seat: number, message: RunbookMessage) => sent.push(message) > 0,
    sendPlain: (_seat: number, plain: Uint8Array) => sent.push(decodeWords(runbookChannel, plain)) > 0,
  };
  const runs = new RunbookRuns(kit as unknown as Kit, port, line as unknown as SealedLine<RunbookMessage>);
  const text = textOfAction(action);
  const pass = async (ms = 0) => {
    clock.advance(ms);
    for (let i = 0; i < 5; i++) await new Promise((resolve) => setImmediate(resolve));
  };
  const choose = (change: Partial<RunInSession> = {}) => {
    const hash = createHash('sha256').update(text).digest('hex');
    slices.runbook[RUN] = {
      ...{ byId: 'pim', actionId: RUN, title: action.title, version: 1, kind: action.kind, hash, isDraft: false },
      ...{ standing: 'chosen', outcome: undefined, steps: 0, ticked: [], ...change },
    };
  };
  const look = async (from = PIM) => {
    runs.look(from, { runId: RUN, text, values: {} });
    await pass();
  };
  const begin = async () => {
    choose();
    await look();
    runs.run(PIM, RUN);
    await pass();
  };
  const why = () => sent.flatMap((message) => (message.type === 'refused' ? [message.why] : []));
  const ended = () => told.filter(({ type }) => type === 'runbook/tellEnded').map(({ outcome }) => outcome);
  return { runs, kit, state, held, leases, sent, told, scripts, text, pass, choose, look, begin, why, ended };
}

describe('what is run', () => {
  it('waits a moment for the ledger, and is refused when it says nothing, or something else', async () => {
    const late = world();
    await late.look();
    late.choose();
    late.runs.check();
    await late.pass();
    expect(late.sent.map(({ type }) => type)).toEqual(['looked']);
    const never = world();
    await never.look();
    await never.pass(6_000);
    expect(never.why()).toEqual(['it is not what the desk approved']);
    for (const change of [{ hash: 'a'.repeat(64) }, { byId: 'rune' }, { kind: 'instruction' as const }]) {
      const other = world();
      other.choose(change);
      await other.look();
      expect(other.why(), JSON.stringify(change)).toEqual(['it is not what the desk approved']);
    }
    const over = world();
    over.choose({ standing: 'over' });
    await over.look();
    expect(over.why()).toEqual(['it was run already']);
  });

  it('is run once, also before the ledger says that it was, and by nobody else', async () => {
    const w = world();
    await w.begin();
    w.runs.run(PIM, RUN);
    w.scripts[0]?.end({ code: 0, mayGoOn: false });
    await w.pass();
    w.runs.drop(PIM, RUN);
    await w.look();
    w.runs.run(PIM, RUN);
    await w.pass();
    expect(w.scripts).toHaveLength(1);
    expect(w.why()).toEqual(['it was run already']);
    const other = world();
    other.choose();
    await other.look();
    other.runs.run(RUNE, RUN);
    other.runs.drop(RUNE, RUN);
    await other.pass();
    expect(other.scripts).toHaveLength(0);
    other.runs.run(PIM, RUN);
    await other.pass();
    expect(other.scripts).toHaveLength(1);
  });

  it('is not run beneath a question, nor on a careful device without leave for it', async () => {
    const asking = world();
    asking.choose();
    await asking.look();
    asking.kit.isAsking = true;
    asking.runs.run(PIM, RUN);
    expect(asking.why()).toEqual(['a question is open at their computer']);
    const leave = { act: 'runbook/run', name: 'A script', byId: 'pim', standing: 'cleared' };
    for (const [given, isRun] of [
      [leave, true],
      [{ ...leave, name: 'Another' }, false],
      [{ ...leave, byId: 'rune' }, false],
      [{ ...leave, act: 'programs/stop' }, false],
      [{ ...leave, standing: 'waits' }, false],
      [undefined, false],
    ] as const) {
      const w = world(actionOf({ isRisky: true }));
      w.state.deviceLabel = 'bridge';
      if (given) w.state.slices['risky-acts'][RUN] = given;
      await w.begin();
      expect(w.scripts.length === 1, JSON.stringify(given)).toBe(isRun);
    }
  });
});

describe('a run', () => {
  it('ends with a stop, its time, and any permission that it needs, and says which it was', async () => {
    const stopped = world();
    await stopped.begin();
    stopped.runs.stop(RUNE, RUN);
    await stopped.pass();
    expect(stopped.ended()).toEqual([]);
    stopped.runs.stop(PIM, RUN);
    await stopped.pass();
    expect(stopped.ended()).toEqual(['stopped']);
    const late = world();
    await late.begin();
    await late.pass(59_000);
    expect(late.ended()).toEqual([]);
    await late.pass(2_000);
    expect(late.ended()).toEqual(['took-too-long']);
    const needing = world(actionOf({ needs: ['fetch-files'] }));
    needing.held.add('fetch-files');
    await needing.begin();
    needing.held.delete('fetch-files');
    needing.runs.check();
    await needing.pass();
    expect(needing.ended()).toEqual(['broken-off']);
  });

  it('says nothing more of what it printed once it is not allowed any longer', async () => {
    const w = world();
    await w.begin();
    w.runs.more(PIM, RUN, 0);
    w.scripts[0]?.print('before');
    await w.pass();
    w.scripts[0]?.print(' and after');
    w.leases.isRunning = false;
    w.runs.check();
    await w.pass(5_000);
    expect(w.sent.flatMap((message) => (message.type === 'output' ? message.text : []))).toEqual(['before']);
    expect(w.told.filter(({ type }) => type === 'runbook/tellSaid')).toEqual([]);
    expect(w.ended()).toEqual(['broken-off']);
  });
});
