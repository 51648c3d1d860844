import { TechnicianPrograms, type WatchedList } from '@porch/client';
import { tellToCustomer, type ProgramList } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, setInForce, Themselves, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const missing = whyNoComputers();
/* What runs on a computer, compared with that computer, looked into from outside. */
describe.skipIf(missing)(`looking closer${missing === undefined ? '' : ` (${missing})`}`, () => {
  let house: House;
  let bettina: Awaited<ReturnType<typeof computerOf>>;
  let inSession: Themselves['run'];
  beforeAll(async () => {
    house = await House.open({ hasTickets: true });
    await setInForce(house, 'untouched-programs', 'berth-*');
    bettina = await computerOf(house);
    const own = new Themselves(bettina);
    inSession = own.run;
    await own.services({
      'gate-scanner': 'Description=Gate scanner',
      'gate-board': 'Description=Gate board\nRequires=gate-scanner.service\nAfter=gate-scanner.service',
      'berth-clock': 'Description=Berth clock',
    });
    await own.start('gate-board');
    const manifest = '[Unit]\nDescription=Manifests\n[Service]\nExecStart=/usr/bin/sleep 7777\n';
    writeFileSync(`${bettina.computer.root}/etc/systemd/system/manifest.service`, manifest);
    await bettina.computer.read('sh', '-c', 'systemctl daemon-reload; systemctl start manifest');
    const trap = join(bettina.home, 'bin');
    mkdirSync(trap);
    for (const name of ['systemctl', 'journalctl', 'crontab'])
      writeFileSync(join(trap, name), `#!/bin/sh\ntouch ${bettina.home}/caught\n`, { mode: 0o755 });
  });
  afterAll(() => house.close());

  async function under(...permissions: ('inspect-programs' | 'change-programs')[]) {
    const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    // Something in the person's own path pretends to be a tool of the system.
    const env = { PATH: `${bettina.home}/bin:/usr/bin:/bin` };
    const desktop = { ...bettina, camera: { env, devices: '/nowhere' } };
    const { person, doorstep } = await house.withDoorstep(session.link, { desktop: desktop as never });
    await until('Doorstep', () => session.technician.state.holderId);
    const programs = new TechnicianPrograms(session.technician);
    for (const permission of ['read-system-report', ...permissions] as const)
      await askAndAgree(session.technician, person, [permission]);
    const end = async () => {
      programs.close();
      await session.technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    };
    return { ...session, person, doorstep, programs, end };
  }
  /** A list once it says what `isSo` wants of it. */
  async function listWhen<L extends ProgramList>(
    programs: TechnicianPrograms,
    list: L,
    isSo: (now: WatchedList<L>) => boolean,
  ) {
    let now: WatchedList<L> | undefined;
    const stop = programs.watch(list, (coming) => (now = coming));
    await until(`the list ${list}`, () => now && (now.missing !== undefined || now.refused !== undefined || isSo(now)));
    stop();
    if (!now) throw new Error('it never came');
    return { ...now, all: [...now.rows.values()] };
  }
  const whole = <L extends ProgramList>(programs: TechnicianPrograms, list: L) =>
    listWhen(programs, list, (now) => now.isWhole);

  it('says of every list what is so, and leaves out what looks like a password', async () => {
    const { programs, technician, end } = await under('inspect-programs');
    const { computer } = bettina;
    await inSession('sh', '-c', 'setsid sleep 4242 --password=hunter-of-gulls >/dev/null 2>&1 & true').catch(() => '');
    await inSession(
      'sh',
      '-c',
      'setsid sh -c \'exec -a "tide --token abc123" sleep 4343\' >/dev/null 2>&1 & true',
    ).catch(() => '');

    const services = await whole(programs, 'services');
    const named = (name: string) => services.all.find((row) => row.name === name);
    expect(named('gate-scanner')).toMatchObject({
      state: 'running',
      whose: 'person',
      about: 'Gate scanner',
      begins: 'by-hand',
    });
    expect(named('manifest')).toMatchObject({ state: 'running', whose: 'computer' });
    expect(named('berth-clock')).toMatchObject({ guard: 'policy' });
    expect(named('systemd-logind')).toMatchObject({ guard: 'needed' });
    const running = (
      await computer.read('systemctl', 'list-units', '--type=service', '--state=running', '--no-legend', '--plain')
    )
      .trim()
      .split('\n');
    expect(services.all.filter(({ whose, state }) => whose === 'computer' && state === 'running').length).toBe(
      running.length,
    );

    const processes = await listWhen(programs, 'processes', ({ isWhole, isHalf }) => isWhole && !isHalf);
    const theirs = (await computer.read('ps', '-eo', 'pid,args')).split('\n');
    const sleeper = processes.all.find(({ startedAs }) => startedAs === '/usr/bin/sleep 7777');
    expect(sleeper?.name).toBe('sleep');
    expect(sleeper?.startedAtMs).toBeGreaterThan(Date.now() - 3_600_000);
    expect(processes.all.length).toBeGreaterThan(theirs.length * 0.7);
    expect(JSON.stringify(processes.all)).not.toMatch(/hunter-of-gulls|abc123/);
    expect(processes.all.find(({ pid }) => pid === 1)).toMatchObject({ guard: 'needed', whose: 'computer' });
    const ours = processes.all.filter(({ guard }) => guard === 'ours');
    expect(ours.some(({ startedAs }) => startedAs.includes('doorstep.mjs'))).toBe(true);

    const installed = await whole(programs, 'installed');
    const packages =
      (await computer.read('dpkg-query', '-W', '-f', '${db:Status-Status} ${Package} ${Version}\\n')).match(
        /^installed .*$/gm,
      ) ?? [];
    expect(installed.all.map(({ name, version }) => `installed ${name} ${version}`).sort()).toEqual(
      [...packages].sort(),
    );

    const ports = await whole(programs, 'ports');
    const listening = (await computer.read('ss', '-Htln'))
      .trim()
      .split('\n')
      .map((line) => Number(/:(\d+)\s/.exec(line)?.[1]));
    expect(
      ports.all
        .filter(({ protocol }) => protocol === 'tcp')
        .map(({ port }) => port)
        .sort(),
    ).toEqual(listening.sort());

    const jobs = await whole(programs, 'jobs');
    const timers = (await computer.read('systemctl', 'list-timers', '--all', '--no-legend', '--no-pager')).match(
      /\S+\.timer/g,
    );
    for (const timer of timers ?? []) expect(jobs.all.map(({ name }) => `${name}.timer`)).toContain(timer);

    // The person's own log alone: the computer's is an administrator's.
    await inSession(
      'sh',
      '-c',
      'logger --journald <<E\nMESSAGE=barcode \u001b[31mcut in half\nPRIORITY=3\nSYSLOG_IDENTIFIER=gate-scanner\nE',
    );
    const entries = await listWhen(programs, 'entries', ({ rows }) =>
      [...rows.values()].some(({ from }) => from === 'gate-scanner'),
    );
    if (entries.missing === undefined) {
      const entry = entries.all.find(({ from }) => from === 'gate-scanner');
      expect(entry).toMatchObject({ weight: 'error', text: 'barcode  [31mcut in half' });
    }

    const told = () => technician.state.slices.programs.looked[technician.participantId]?.length;
    await until('all of them to be told', () => told() === 6);
    await end();
  });

  it('is live: what begins and ends comes and goes, and nothing is read any more once nobody looks', async () => {
    const { programs, end } = await under('inspect-programs');
    let now: WatchedList<'processes'> | undefined;
    const stop = programs.watch('processes', (coming) => (now = coming));
    const sleeper = () => [...(now?.rows.values() ?? [])].find(({ startedAs }) => startedAs === 'sleep 5151');
    await until('the list', () => now?.isWhole);
    bettina.computer.atIt('sleep', ['5151']);
    await until('it to be there', sleeper);
    expect(sleeper()).toMatchObject({ whose: 'computer', state: 'waiting', cpuPercent: 0 });
    await bettina.computer.read('pkill', '-KILL', '-xf', 'sleep 5151');
    await until('it to be gone', () => !sleeper());
    stop();
    await end();
  });

  it('says what hangs on a service, stops, starts and ends things only when it may, and tells the person', async () => {
    const { programs, technician, customer, person, end } = await under('inspect-programs');
    const refusal = (doing: Promise<unknown>) =>
      doing.then(
        () => 'done',
        (error: unknown) => (error as Error).message,
      );
    expect(await refusal(programs.prepare('stop', 'person/gate-scanner.service'))).toBe(
      'the customer has not allowed it',
    );
    await askAndAgree(technician, person, ['change-programs']);

    const stop = await programs.prepare('stop', 'person/gate-scanner.service');
    expect(stop).toMatchObject({ name: 'gate-scanner', hanging: ['gate-board'], hangingCount: 1 });
    expect(await inSession('systemctl', '--user', 'is-active', 'gate-scanner').catch(() => 'no')).toMatch(/^active/);
    expect(await programs.act(stop)).toEqual({ outcome: 'done', says: '' });
    expect(
      (await inSession('sh', '-c', 'systemctl --user is-active gate-scanner gate-board; true')).trim().split('\n'),
    ).toEqual(['inactive', 'inactive']);
    expect(await programs.act(await programs.prepare('start', 'person/gate-board.service'))).toEqual({
      outcome: 'done',
      says: '',
    });
    expect(await inSession('systemctl', '--user', 'is-active', 'gate-scanner')).toMatch(/^active/);
    expect((await programs.act(await programs.prepare('enable', 'person/gate-scanner.service'))).outcome).toBe('done');
    expect(await inSession('systemctl', '--user', 'is-enabled', 'gate-scanner')).toMatch(/^enabled/);
    expect((await programs.act(await programs.prepare('disable', 'person/gate-scanner.service'))).outcome).toBe('done');

    // What the person may not, nobody does for them; what is needed, ours, ruled out or not there is not touched.
    expect((await programs.act(await programs.prepare('stop', 'computer/manifest.service'))).outcome).toBe('no-rights');
    expect(await bettina.computer.read('systemctl', 'is-active', 'manifest')).toMatch(/^active/);
    for (const [target, why] of [
      ['person/berth-clock.service', 'this desk never touches it'],
      ['computer/systemd-logind.service', 'the computer or this session would stop with it'],
      ['person/dbus.service', 'the computer or this session would stop with it'],
      ['person/no-such.service', 'it is not there any longer'],
      ['person/--now.service', 'it is not there any longer'],
      ['person/a.service b.service', 'it is not there any longer'],
      ['elsewhere/a.service', 'it is not there any longer'],
      ['person/$(touch caught).service', 'it is not there any longer'],
    ] as const)
      expect(await refusal(programs.prepare('stop', target)), target).toBe(why);

    const { all } = await whole(programs, 'processes');
    const own = all.find(({ guard }) => guard === 'ours');
    const first = all.find(({ pid }) => pid === 1);
    expect(await refusal(programs.prepare('end', own?.id ?? ''))).toBe('it belongs to this session');
    expect(await refusal(programs.prepare('end', first?.id ?? ''))).toBe(
      'the computer or this session would stop with it',
    );
    expect(await refusal(programs.prepare('end-at-once', '999999.1'))).toBe('it is not there any longer');
    const gate = (
      await inSession('systemctl', '--user', 'show', '--property=MainPID', '--value', 'gate-scanner')
    ).trim();
    const row = all.find(({ pid }) => `${pid}` === gate);
    const ended = await programs.prepare('end', row?.id ?? '');
    expect(await programs.act(ended)).toEqual({ outcome: 'done', says: '' });
    expect(await bettina.computer.read('sh', '-c', `kill -0 ${gate} 2>&1; true`)).toMatch(/no such process/i);
    expect(await refusal(programs.act(ended)), 'twice').toBe('it was looked at too long ago');

    // Their copy may come a moment after the answer.
    const told = () => tellToCustomer(customer.entries, ledger.en).map(({ sentence }) => sentence);
    const copy = await until('the last act in their copy', () => {
      const now = told();
      return now.includes('Pim Aldersey asks the program sleep to end') ? now : undefined;
    });
    expect(copy).toContain('Pim Aldersey stops the service gate-scanner');
    expect(copy).toContain('manifest: not done, only an administrator may');
    expect(copy).toContain('Pim Aldersey asks the program sleep to end');
    expect(existsSync(join(bettina.home, 'caught')), 'nothing in their own path was asked').toBe(false);
    await end();
  });
});
