import { ReturnAsks, RestartRefusedThere, TechnicianRestart, TechnicianRights } from '@porch/client';
import { isOver, tellToCustomer, type Permission, type RestartHow } from '@porch/core';
import { passwordOf, PersonAtDesk, whyNoComputers } from '@porch/demo';
import {
  askAndAgree,
  computerOf,
  dumpScreen,
  failure,
  House,
  lookAt,
  setInForce,
  Themselves,
  until,
} from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Restarts of stand-in computers: real ones, looked at from outside. */
let house: House;
beforeAll(async () => (house = await House.open()));
afterAll(() => house.close());

type Computer = Awaited<ReturnType<typeof computerOf>>;
async function working(desktop: Computer, permissions: readonly Permission[] = ['view-screen', 'control-input']) {
  const s = await house.sessionUnderWay();
  const { person, doorstep } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, person, [...permissions]);
  await askAndAgree(s.technician, person, ['restart-computer']);
  const restart = new TechnicianRestart(s.technician);
  const troubles: unknown[] = [];
  const returning = new ReturnAsks(s.technician, (error) => troubles.push(error));
  const slice = () => s.technician.state.slices['restart-and-return'];
  const may = () =>
    Object.entries(s.technician.state.standings[s.technician.participantId] ?? {})
      .filter(([, { name }]) => name === 'allowed')
      .map(([permission]) => permission)
      .sort();
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  /** The person says yes; resolves once the computer goes down. */
  const goDown = async (at: PersonAtDesk, how: RestartHow = 'restart', signsIn = false) => {
    await until('leave to restart it', () => may().includes('restart-computer'));
    const outlook = await restart.look();
    const done = restart.restart(restart.wanted(how, signsIn), outlook);
    await at.press(/wants to (restart this computer|sign you out)/, 'yes');
    await done;
  };
  return { ...s, person, doorstep, restart, returning, troubles, slice, may, told, goDown };
}
/** Whoever sits at it after it has started again. */
async function back(desktop: Computer, starts: number): Promise<PersonAtDesk> {
  await desktop.computer.isUp(starts + 1);
  return PersonAtDesk.at(desktop.display);
}
/** What of ours lies in their home. */
const ours = (home: string): string[] =>
  ['state', '.config/autostart', '.config/systemd/user', '.local/share/zesty-porch'].flatMap((folder) =>
    existsSync(join(home, folder)) ? readdirSync(join(home, folder), { recursive: true }).map(String) : [],
  );

/** Whether the account's programs may run while nobody is signed in. */
const lingers = ({ computer }: Computer): boolean => existsSync(`${computer.root}/var/lib/systemd/linger/bettina`);
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(
    () => 'done',
    (error: unknown) => (error instanceof RestartRefusedThere ? error.message : String(error)),
  );

describe.skipIf(whyNoComputers())('a restart', () => {
  it('carries the session over, with exactly what the person said, twice, and a cut of power after it; nothing stays', async () => {
    const desktop = await computerOf(house);
    const { technician, person, restart, slice, may, told, goDown, troubles } = await working(desktop);
    const before = ours(desktop.home);
    const outlook = await restart.look();
    expect(outlook).toMatchObject({ computer: 'tern-quay-04', account: 'bettina', canSignIn: true, isCareful: false });
    expect(outlook.hows).toEqual(['restart', 'bare', 'sign-out']);
    expect(outlook.hits).toEqual([]);
    const bootId = () => desktop.computer.read('cat', '/proc/sys/kernel/random/boot_id');
    const first = await bootId();
    const holder = technician.state.holderId;
    const seen = lookAt(technician);
    await until('the picture', seen.isFresh);

    let starts = desktop.computer.starts;
    await goDown(person);
    const then = await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    expect(await bootId()).not.toBe(first);
    expect(technician.state.holderId, 'it is who it was').toBe(holder);
    await until('what was agreed', () => may().length === 3);
    expect(may()).toEqual(['control-input', 'restart-computer', 'view-screen']);
    await until(
      'the same picture',
      () => seen.isFresh() && Buffer.from(seen.pixels()).equals(Buffer.from(dumpScreen(desktop.display))),
    );

    // Taken back by hand afterwards: it does not come back, and nobody is asked for it.
    await technician.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission: 'control-input',
      why: 'given back',
    });
    await until('less is agreed', () => slice().agreed?.permissions.includes('control-input') === false);
    starts = desktop.computer.starts;
    await desktop.computer.cutPower();
    desktop.computer.switchOn();
    await back(desktop, starts);
    await until('the second return', () => slice().returns === 2);
    await until('what was agreed', () => may().length === 2);
    expect(may()).toEqual(['restart-computer', 'view-screen']);
    await until('the picture again', seen.isFresh);
    expect(troubles).toEqual([]);
    expect(told().filter((one) => /back with/.test(one))).toHaveLength(2);
    expect(told().join('\n')).toMatch(/As agreed before the restart, Pim Aldersey may see your screen again/);
    await then.close();

    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    await until('nothing of it stays', () => ours(desktop.home).length <= before.length && !lingers(desktop));
    expect(ours(desktop.home).filter((name) => /return|keys|zesty/.test(name))).toEqual([]);
  });

  it('does not happen after a no, while others are signed in, or while packages are installed; all stays as it was', async () => {
    const desktop = await computerOf(house);
    const { person, restart, slice, told } = await working(desktop);
    const before = ours(desktop.home);
    const { starts } = desktop.computer;
    const outlook = await restart.look();
    const ask = () => refusal(restart.restart(restart.wanted('restart', false), outlook));
    const asked = ask();
    await person.press(/wants to restart this computer/, 'no');
    expect(await asked).toBe('the customer said no');
    await until('the ledger', () => told().includes('No restart: you said no'));

    // Thought better of, while they read: the question goes.
    const wanted = restart.wanted('restart', false);
    const dropped = refusal(restart.restart(wanted, outlook));
    await person.questionSaying(/wants to restart this computer/);
    restart.drop(wanted);
    expect(await dropped).toBe('it failed at the computer');
    await until('the question to go', async () => !(await person.question()));

    const { computer } = desktop;
    await computer.read('useradd', '--create-home', 'guest');
    const other = computer.atIt('systemd-run', ['--wait', '--uid=guest', '--property=PAMName=login', 'sleep', '600']);
    await until('somebody else', async () => (await restart.look()).hits.some(({ hit }) => hit === 'others'));
    expect(await ask()).toBe('others are signed in there');
    await computer.read('loginctl', 'terminate-user', 'guest');
    await until('nobody else', async () => !(await restart.look()).hits.length);
    other.kill();

    const installs = computer.atIt('flock', ['/var/lib/dpkg/lock-frontend', 'sleep', '600']);
    await until('packages', async () => (await restart.look()).hits.some(({ hit }) => hit === 'packages'));
    expect(await ask()).toBe('packages are being installed there');
    await computer.read('pkill', '-f', '[s]leep 600');
    installs.kill();

    expect(slice().away).toBeUndefined();
    expect(computer.starts).toBe(starts);
    expect(ours(desktop.home)).toEqual(before);
    expect(lingers(desktop)).toBe(false);
  });

  it('with nothing but what the desktop needs, for this once', async () => {
    const desktop = await computerOf(house);
    const { person, slice, goDown } = await working(desktop);
    const { computer, home } = desktop;
    const here = new Themselves(desktop);
    const entry = (what: string) =>
      `[Desktop Entry]\nType=Application\nName=x\nExec=sh -c "echo ran >> /tmp/${what}"\n`;
    here.file('.config/autostart/mine.desktop', entry('mine'));
    await computer.read(
      'sh',
      '-c',
      `mkdir -p /etc/xdg/autostart; printf '%s' '${entry('theirs')}' > /etc/xdg/autostart/theirs.desktop`,
    );
    const before = readdirSync(join(home, '.config/autostart'));
    const ran = () => ['mine', 'theirs'].map((what) => existsSync(`${computer.root}/tmp/${what}`));

    let { starts } = computer;
    await goDown(person, 'bare');
    const then = await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    expect(ran()).toEqual([false, false]);
    await until(
      'all to be as always',
      () => !readdirSync(join(home, '.config/autostart')).some((name) => /aside/.test(name)),
    );
    expect(readdirSync(join(home, '.config/autostart')).sort()).toEqual(
      [...before, 'zesty-porch-return.desktop'].sort(),
    );

    starts = computer.starts;
    await goDown(then, 'restart');
    await back(desktop, starts);
    await until('the second return', () => slice().returns === 2);
    await until('everything to begin', () => ran().every(Boolean));
  });

  it('signs out, says that it waits for somebody, and goes on once they are there', async () => {
    const desktop = await computerOf(house);
    const { person, slice, goDown, may } = await working(desktop);
    const { computer } = desktop;
    const { starts } = computer;
    await goDown(person, 'sign-out');
    await until('the sign-in screen', () => slice().away?.step === 'at-sign-in');
    expect(may(), 'kept until they are back').toContain('view-screen');
    // The stand-in signs in by itself whenever its sign-in screen starts.
    await computer.read('systemctl', 'restart', 'lightdm');
    await until('the return', () => slice().returns === 1);
    await until('what was agreed', () => may().length === 3);
    expect(computer.starts).toBe(starts);
  });

  it('signs in once by itself with administrator rights, and never again', async () => {
    const desktop = await computerOf(house);
    const { technician, rest, person, restart, slice, goDown, may } = await working(desktop);
    const { computer } = desktop;
    await computer.read('sed', '-i', '/autologin/d', '/etc/lightdm/lightdm.conf.d/50-stand-in.conf');
    const outlook = await restart.look();
    expect(outlook.hits).toEqual([{ hit: 'sign-in' }]);
    // Without the rights for it nothing is prepared, and nothing goes down.
    const without = refusal(restart.restart(restart.wanted('restart', true), outlook));
    await person.press(/wants to restart this computer/, 'yes');
    expect(await without).toBe('it needs administrator rights');
    expect(onceFiles(desktop)).toEqual([]);

    await askAndAgree(technician, person, ['raise-rights']);
    const rights = new TechnicianRights(technician, rest);
    const raised = rights.raise(rights.wanted('one sign-in'), 'password', await rights.ways());
    await person.questionSaying(/Password of an administrator/);
    await person.type(passwordOf('bettina'));
    await person.press(/Password of an administrator/, 'yes');
    await raised;

    let { starts } = computer;
    await goDown(person, 'restart', true);
    const then = await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    await until('what was agreed', () => may().includes('restart-computer'));
    await until('the file to be gone', () => onceFiles(desktop).length === 0);
    expect(may(), 'rights are raised anew').not.toContain('raise-rights');

    // The next time somebody has to be there, and it says so.
    starts = computer.starts;
    await goDown(then, 'restart');
    await until('its start', () => computer.starts === starts + 1);
    await until('the sign-in screen', () => slice().away?.step === 'at-sign-in');
    expect(slice().returns).toBe(1);
  });

  it('of which nothing is heard is said, with what to try, and goes on whenever it is back', async () => {
    await setInForce(house, 'restart-late-minutes', '0.05');
    await setInForce(house, 'grace-seconds', '1');
    const desktop = await computerOf(house);
    const { technician, person, slice, goDown, told, may } = await working(desktop);
    const { computer } = desktop;
    const { starts } = computer;
    await goDown(person);
    await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    await until('what was agreed', () => may().length === 3);
    await computer.cutPower();
    await until('that it is gone', () => slice().away?.step === 'gone');
    await until('that it is late', () => slice().away?.isLate === true);
    expect(technician.state.participants[technician.state.holderId ?? '']?.isGone).toBe(false);
    const last = technician.entries.at(-1)?.event;
    expect(last?.type).toBe('restart-and-return/late');
    computer.switchOn();
    await back(desktop, starts + 1);
    await until('the return', () => slice().returns === 2);
    await until('what was agreed', () => may().length === 3);
    expect(told().filter((one) => /is starting/.test(one)).length).toBeGreaterThanOrEqual(1);
    await setInForce(house, 'restart-late-minutes', '--as-it-comes');
    await setInForce(house, 'grace-seconds', '--as-it-comes');
  });

  it('that the person stops by Stop takes everything away, and their computer comes back to nothing', async () => {
    const desktop = await computerOf(house);
    const { person, technician, slice, goDown } = await working(desktop);
    const { computer } = desktop;
    const { starts } = computer;
    await goDown(person);
    const then = await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    await until('the bar', () => then.bar());
    await then.pressStop();
    await until('the end', () => isOver(technician.state));
    await until('nothing of it stays', () => !ours(desktop.home).some((name) => /return|keys|aside/.test(name)));
    expect(lingers(desktop)).toBe(false);
  });

  it('of the program alone is none: who opens it again is asked for everything', async () => {
    const desktop = await computerOf(house);
    const { person, slice, goDown, may, technician, link } = await working(desktop);
    const { starts } = desktop.computer;
    await goDown(person);
    await back(desktop, starts);
    await until('the return', () => slice().returns === 1);
    await until('what was agreed', () => may().length === 3);
    await desktop.computer.read('pkill', '-KILL', '-f', '^doorstep');
    house.startDoorstep(desktop, `${house.url}/join/${link}`);
    await until('that nothing comes back', () => slice().agreed?.permissions.length === 0);
    expect([may(), slice().toAsk, slice().returns]).toEqual([[], [], 1]);
    expect(Object.keys(technician.state.asks)).toEqual([]);
  });

  it('keeps its keys for nobody without the half that the service hands out, and only to the pass of that session', async () => {
    const desktop = await computerOf(house);
    const { person, goDown, technician, customerRest } = await working(desktop);
    const { computer, home } = desktop;
    const { starts } = computer;
    await goDown(person);
    const keys = readdirSync(join(home, 'state')).find((name) => name.startsWith('keys-')) ?? '';
    const lies = readFileSync(join(home, 'state', keys), 'utf8');
    expect(Object.keys(JSON.parse(lies) as object).sort()).toEqual(['bootId', 'pid', 'sealed', 'version']);
    expect(lies).not.toMatch(/Secret|permission/);
    // A page of the same session is handed no half, and cannot say how far the computer is.
    expect((await customerRest.door()).keyHalf).toBeUndefined();
    expect(await failure(customerRest.tellStep('starting'))).toBe('PASS_NOT_FOR_THIS');
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    await back(desktop, starts);
    await until('nothing of it stays', () => !ours(home).some((name) => /return|keys/.test(name)));
    expect(lingers(desktop)).toBe(false);
  });
});

const onceFiles = ({ computer }: Computer): string[] =>
  ['/etc/lightdm/lightdm.conf.d', '/etc/systemd/system', '/etc/systemd/system/graphical.target.wants'].flatMap(
    (folder) =>
      existsSync(computer.root + folder)
        ? readdirSync(computer.root + folder).filter((name) => /zesty.*once/.test(name))
        : [],
  );
