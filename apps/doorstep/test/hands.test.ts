import { endProcess, startDesktop } from '@porch/demo';
import { askAndAgree, House, PressCounter, startWorking, until } from '@porch/testkit';
import type { InputAct } from '@porch/wire';
import { execFileSync, spawn } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { Injector } from '../src/x11/hands/injector.ts';
import { releasePressed, releaseWhatComesLate } from '../src/x11/hands/left-behind.ts';
import { XConnection } from '../src/x11/server/connection.ts';
import { findExtensions } from '../src/x11/server/extensions.ts';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

async function working(ticketRef?: string) {
  const s = await house.sessionUnderWay('Pim Aldersey', ticketRef);
  const d = await house.withDoorstep(s.link, { programs: 'none' });
  const seen = await startWorking(s.technician, d.person);
  const counter = await PressCounter.at(d.desktop.display);
  return { ...s, ...d, ...seen, counter };
}
type Working = Awaited<ReturnType<typeof working>>;

/** Characters that no keyboard has: each has to borrow a keycode, so that the whole takes many seconds. */
const LONG = Array.from({ length: 1_500 }, (_, i) => String.fromCodePoint(0x4e00 + ((i * 37) % 1_200))).join('');
const shiftDown: InputAct = { act: 'key', key: 'Shift', isDown: true };

describe('what is being typed', () => {
  const ways: [string, (w: Working) => Promise<unknown>][] = [
    [
      'control is taken back on the page',
      ({ customer, technician: { participantId } }) =>
        customer.command({ type: 'withdrawPermission', participantId, permission: 'control-input', why: 'enough' }),
    ],
    [
      'a private moment begins on the page',
      ({ customer }) => customer.command({ type: 'setPrivate', isOn: true, fact: undefined }),
    ],
    [
      'Stop is pressed while the service is down',
      async ({ person }) => {
        await house.killService();
        await person.pressStop();
      },
    ],
    ['the person uses their own mouse', ({ person }) => person.click(400, 300)],
    [
      'a question comes up',
      async ({ technician, person }) => {
        await technician.command({
          type: 'askPermissions',
          askId: crypto.randomUUID(),
          permissions: ['give-files'],
        });
        await until('the question', () => person.question());
      },
    ],
  ];
  it.each(ways)('ends within the act when %s', async (what, takeBack) => {
    const w = await working();
    w.act({ act: 'text', text: LONG });
    await until('it to be under way', () => w.counter.presses > 20);
    await takeBack(w);
    // Doorstep hears of what the page says a moment later; from when it shows that it did, nothing more may come.
    await until('Doorstep to have heard of it', () => w.lease.state.name !== 'open' || what.includes('question'));
    await new Promise((resolve) => setTimeout(resolve, 150));
    const before = w.counter.presses;
    // Their own second is over in one; what went on did so for twelve.
    await new Promise((resolve) => setTimeout(resolve, 1_500));
    expect(w.counter.presses - before).toBe(0);
    expect(w.counter.presses).toBeLessThan(1_500);
    expect(await w.person.keysDown()).toEqual([]);
    w.counter.close();
    if (what.includes('service')) await house.startService();
    await endProcess(w.doorstep);
  });
});

describe('a desktop that stands still', () => {
  it('has nothing of what was sent meanwhile pressed when it wakes, and its picture grows old', async () => {
    const w = await working();
    await w.counter.press(w.lease);
    const { presses } = w.counter;
    w.desktop.server.kill('SIGSTOP');
    const startedAtMs = performance.now();
    for (let i = 0; i < 60; i++) w.act({ act: 'key', key: 'b', isDown: true }, { act: 'key', key: 'b', isDown: false });
    await until('the picture to be called old', () => (w.picture.standing.ageMs ?? 0) > 3_000);
    await until('six seconds', () => performance.now() - startedAtMs > 6_000);
    w.desktop.server.kill('SIGCONT');
    await until('the picture to be fresh again', w.isFresh);
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(w.counter.presses).toBe(presses);
    expect(await w.person.keysDown()).toEqual([]);
    w.counter.close();
    await endProcess(w.doorstep);
  });
});

/** The watchdog of a Doorstep: its child. */
const watchdogOf = (pid: number | undefined): number | undefined => {
  const lines = execFileSync('ps', ['-eo', 'pid,ppid,args']).toString().split('\n');
  const line = lines.find((l) => l.includes(' watchdog ') && Number(l.trim().split(/\s+/)[1]) === pid);
  return line ? Number(line.trim().split(/\s+/)[0]) : undefined;
};

describe('the watchdog', () => {
  it('is missed at once when it is killed alone: all is let go, another watches, and lets go in its turn', async () => {
    const w = await working();
    w.act(shiftDown);
    await until('Shift', async () => (await w.person.keysDown()).length > 0);
    const first = await until('the watchdog', () => watchdogOf(w.doorstep.pid));
    process.kill(first, 'SIGKILL');
    // Nothing else ever would: how soon it is, depends on the machine.
    await until('it to be let go', async () => (await w.person.keysDown()).length === 0);
    const second = await until('another', () => {
      const pid = watchdogOf(w.doorstep.pid);
      return pid !== first ? pid : undefined;
    });
    expect(second).toBeGreaterThan(0);
    await until('Shift again', async () => {
      w.act({ ...shiftDown, isDown: false } as InputAct, shiftDown);
      return (await w.person.keysDown()).length > 0;
    });
    w.doorstep.kill('SIGKILL');
    await until('it to be let go by the other', async () => (await w.person.keysDown()).length === 0);
    w.counter.close();
  });

  it('that cannot be kept is the end of working here: nothing is pressed any longer, and the technician reads why', async () => {
    const w = await working();
    const whyNot = () => w.technician.state.participants[w.technician.state.holderId ?? '']?.cannot['control-input'];
    expect(whyNot()).toBeUndefined();
    let killed: number | undefined;
    await until('it to be given up', () => {
      const pid = watchdogOf(w.doorstep.pid);
      if (pid !== undefined && pid !== killed) process.kill((killed = pid), 'SIGKILL');
      return whyNot() === 'computer-cannot';
    });
    w.act(shiftDown);
    await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after the press' });
    expect(await w.person.keysDown()).toEqual([]);
    w.counter.close();
  });

  it('does its work though Doorstep was killed before it heard that it is watched', async () => {
    const desktop = await startDesktop(house.processes, {
      name: 'a test',
      home: join(house.folder, 'home-watched'),
      programs: 'none',
    });
    const watchdog = spawn(
      process.execPath,
      [join(inject('root'), 'dist', 'doorstep.mjs'), 'watchdog', '--display', desktop.display],
      { stdio: ['pipe', 'pipe', 'inherit'] },
    );
    watchdog.stdout.destroy();
    watchdog.stdin.end('key 50 down\n');
    expect(await new Promise((resolve) => watchdog.once('exit', (code, signal) => resolve(signal ?? code)))).toBe(0);
  });

  it('lets go of what the X server reads of a dead Doorstep only after it', async () => {
    const w = await working();
    const x = await XConnection.open(w.desktop.display, () => undefined);
    const { xtest } = await findExtensions(x);
    if (!xtest) throw new Error('this X server has no XTEST');
    const dead = await Injector.create(x, xtest, { isThere: true, report: () => undefined });
    const watchdog = await XConnection.open(w.desktop.display, () => undefined);
    const { xtest: own = xtest } = await findExtensions(watchdog);
    await releasePressed(watchdog, own);
    const letGo = releaseWhatComesLate(watchdog, own);
    await dead.key('Shift', true, () => true);
    await x.flush();
    await letGo;
    expect(await w.person.keysDown()).toEqual([]);
    for (const one of [x, watchdog]) one.close();
    w.counter.close();
  });

  it('and Doorstep killed in one moment leave something down, and the next start lifts it', async () => {
    const w = await working();
    w.act(shiftDown);
    await until('Shift', async () => (await w.person.keysDown()).length > 0);
    const watchdog = await until('the watchdog', () => watchdogOf(w.doorstep.pid));
    process.kill(watchdog, 'SIGSTOP');
    w.doorstep.kill('SIGKILL');
    process.kill(watchdog, 'SIGKILL');
    await new Promise((resolve) => w.doorstep.once('exit', resolve));
    expect((await w.person.keysDown()).length).toBeGreaterThan(0);
    const again = house.startDoorstep(w.desktop, `${house.url}/join/${w.link}`);
    await until('it to be lifted', async () => (await w.person.keysDown()).length === 0);
    // It comes back as who it was, with nothing that was allowed before.
    const { technician } = w;
    await until('it to be back', () => technician.entries.some((e) => e.event.type === 'programStarted'));
    expect(technician.state.candidateId).toBeUndefined();
    expect(technician.state.standings[technician.participantId]?.['control-input']?.name).toBe('over');
    await askAndAgree(technician, w.person, ['view-screen']);
    await until('its picture', w.isFresh);
    w.counter.close();
    await endProcess(again);
  });
});
