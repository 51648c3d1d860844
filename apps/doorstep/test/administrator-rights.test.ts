import {
  fetchExchange,
  RestClient,
  RightsRefusedThere,
  TechnicianPrograms,
  TechnicianRights,
  TechnicianRunbook,
} from '@porch/client';
import { textOfAction, tellToCustomer, type RunbookValues } from '@porch/core';
import { whyNoComputers, type PersonAtDesk } from '@porch/demo';
import {
  actionRuns,
  askAndAgree,
  computerOf,
  dumpScreen,
  House,
  lookAt,
  runbookInUse,
  setInForce,
  until,
} from '@porch/testkit';
import { backBytes, holderProofBytes, orderBytes, serviceOrderBytes, signBytes, signBytesWith } from '@porch/wire';
import { ledger } from '@porch/words/ledger';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { unseal, type Sealed } from '../src/sealed-file.ts';

/* Administrator rights at stand-in computers, looked at from outside: their processes, their files. */
const BETTINAS = 'tern-quay-gull-7';
let house: House;
let inUse: Awaited<ReturnType<typeof runbookInUse>>;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  inUse = await runbookInUse(house);
});
afterAll(() => house.close());

type Computer = Awaited<ReturnType<typeof computerOf>>;
async function working(desktop: Computer) {
  const s = await house.sessionUnderWay();
  const { person, doorstep } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  for (const permission of ['raise-rights', 'run-runbook'] as const)
    await askAndAgree(s.technician, person, [permission]);
  const tamper = { how: (chosen: { runId: string; text: string }) => chosen };
  const rights = new TechnicianRights(s.technician, s.rest);
  const runbook = new TechnicianRunbook(s.technician, {
    chooseRunbookAction: async (...asked) => tamper.how(await s.rest.chooseRunbookAction(...asked)),
  });
  const { begin, run } = actionRuns(runbook, (action) => inUse({ rights: 'administrator', ...action }));
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const slice = () => s.technician.state.slices['administrator-rights'];
  return { ...s, person, doorstep, tamper, rights, runbook, begin, run, told, slice };
}
/** Types what is asked for at their computer. */
async function types(person: PersonAtDesk, password: string, says = /Password of an administrator/): Promise<void> {
  await person.questionSaying(says);
  await person.type(password);
  await person.press(says, 'yes');
}
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(
    () => 'done',
    (error: unknown) => (error instanceof RightsRefusedThere ? error.message : String(error)),
  );
/** Doorstep's own keys, as whoever has its file and a pass like its own opens them. */
async function keysOf({ home }: Computer, id: string, link: string): Promise<{ signSecret: string }> {
  const { door } = await new RestClient(fetchExchange(house.url)).join({ link, as: 'doorstep' });
  const lies = JSON.parse(readFileSync(join(home, 'state', `keys-${id}.json`), 'utf8')) as { sealed: Sealed };
  return JSON.parse(unseal(door.keyHalf ?? '', `keys ${id}`, lies.sealed) ?? '') as { signSecret: string };
}
/** How many parts that hold rights run there. */
const parts = async ({ computer }: Computer): Promise<number> =>
  Number(await computer.read('sh', '-c', 'pgrep -fc "[ ]root-part" || true'));

describe.skipIf(whyNoComputers())('by a password that somebody types there', () => {
  it('are raised, run what the desk approved as root and nothing else, and fall back', async () => {
    const desktop = await computerOf(house);
    const { technician, rights, run, begin, person, told, slice, customer } = await working(desktop);
    expect(await rights.ways()).toEqual({ password: true, installed: undefined, isCareful: false });
    const wanted = rights.wanted('replace the driver of the label printer');
    await askAndAgree(technician, person, ['view-screen']);
    const seen = lookAt(technician);
    await until('the picture', seen.isFresh);
    const raising = rights.raise(wanted, 'password', { installed: undefined });
    await person.questionSaying(/Password of an administrator/);
    // It stands on their own screen, and in nobody's picture, also not a moment later.
    const ground = (pixels: Uint32Array) => pixels.filter((pixel) => pixel === 0xfaf6ec).length;
    await until('it to be seen there', () => ground(dumpScreen(desktop.display)) > 50_000);
    const sinceMs = performance.now();
    await until('a picture of then', () => performance.now() - sinceMs > 1_500 && seen.isFresh());
    expect(ground(seen.pixels())).toBeLessThan(2_000);
    seen.stop();
    await types(person, 'not-this-one');
    await types(person, BETTINAS, /not right/);
    await raising;
    await until('the ledger', () => slice()[wanted.raiseId]?.standing === 'raised');
    const who = await run({ title: 'Who', body: 'id -u; echo "$HOME"; pwd; touch /etc/porch-was-here' });
    expect(who).toMatchObject({ text: '0\n/root\n/root\n', outcome: 'done' });
    expect(existsSync(join(desktop.computer.root, 'etc/porch-was-here'))).toBe(true);
    // The password is nowhere: in no process, not in the ledger.
    const processes = await desktop.computer.read(
      'sh',
      '-c',
      'cat /proc/[0-9]*/environ /proc/[0-9]*/cmdline 2>&1 || true',
    );
    expect(processes).toContain('root-part');
    expect(processes).not.toContain(BETTINAS);
    expect(JSON.stringify(technician.entries)).not.toContain(BETTINAS);
    // A service of the computer, which nobody without rights may stop.
    await askAndAgree(technician, person, ['read-system-report', 'inspect-programs', 'change-programs']);
    const service = await aService(desktop);
    const programs = new TechnicianPrograms(technician);
    expect(await programs.act(await programs.prepare('stop', service.target))).toMatchObject({ outcome: 'done' });
    expect(await service.isActive()).toBe(false);
    await expect(programs.prepare('stop', 'computer/dbus.service')).rejects.toThrow('would stop with it');
    // All that it began ends with them.
    const long = await begin({ title: 'Stays', body: 'setsid sleep 4163 & echo begun; sleep 4163' });
    await long.says('begun');
    rights.lower(wanted.raiseId);
    expect(await long.end()).toMatchObject({ outcome: 'broken-off' });
    await until('the part to be gone', async () => (await parts(desktop)) === 0);
    expect(await desktop.computer.read('sh', '-c', 'pgrep -f "sleep 416[3]" || true')).toBe('');
    await until('the ledger', () => slice()[wanted.raiseId]?.fell === 'given-back');
    await until('the customer to be told', () => told().join('\n').includes('given back'));
    expect(await programs.act(await programs.prepare('start', service.target))).toMatchObject({ outcome: 'no-rights' });
    programs.close();
    expect(told().join('\n')).toMatch(/With administrator rights: Who[^]*With administrator rights: quay-labels/);
    customer.close();
  });

  it('by sudo where there is no polkit, and not at all after three wrong ones or a no', async () => {
    const desktop = await computerOf(house);
    await desktop.computer.read('rm', '/usr/bin/pkexec');
    const { rights, run, person, slice, technician } = await working(desktop);
    const raise = () =>
      refusal(rights.raise(rights.wanted('look at the printer'), 'password', { installed: undefined }));
    const wrong = raise();
    for (const says of [/unseen|seen by nobody/, /2 times left/, /the last time/])
      await types(person, 'wrong-one', says);
    expect(await wrong).toBe('the password was wrong three times');
    const unwanted = raise();
    await person.press(/Password of an administrator/, 'no');
    expect(await unwanted).toBe('no password was typed');
    expect(await parts(desktop)).toBe(0);
    const said = () =>
      technician.entries.flatMap(({ event }) => (event.type === 'administrator-rights/notRaised' ? [event.why] : []));
    await until('the ledger to say both', () => said().join() === 'wrong-password,not-typed');
    const refused = run({ title: 'Without', body: 'id -u' });
    await expect(refused).rejects.toThrow('it needs administrator rights, which this session does not have');
    const right = raise();
    await person.questionSaying(/Password of an administrator/);
    await person.type(BETTINAS);
    await person.press(/Password of an administrator/, 'yes');
    expect(await right).toBe('done');
    await until('the ledger', () => Object.values(slice()).some(({ standing }) => standing === 'raised'));
    // By nobody's hand: Doorstep dies, and all of it with it.
    const script = run({ title: 'Stays', body: 'setsid sleep 4164 & sleep 4164' });
    script.catch(() => undefined);
    await until('it to run', async () => (await running(desktop, 4164)) === 2);
    await desktop.computer.read('pkill', '-KILL', '-x', 'doorstep');
    await until('all of it to be gone', async () => !(await parts(desktop)) && !(await running(desktop, 4164)));
  });

  it('end with what holds them, whole; and a Doorstep that stands still has them no longer', async () => {
    const desktop = await computerOf(house);
    const { rights, run, begin, person, slice } = await working(desktop);
    const raised = async () => {
      const wanted = rights.wanted('restart the label service');
      const raising = rights.raise(wanted, 'password', { installed: undefined });
      await types(person, BETTINAS);
      await raising;
      return until('the ledger', () => slice()[wanted.raiseId]);
    };
    await raised();
    const long = await begin({
      title: 'Stays',
      body: 'setsid sh -c "sleep 4165; true" & nohup sleep 4165 & echo begun; sleep 4165',
    });
    await long.says('begun');
    await desktop.computer.read('pkill', '-KILL', '-f', '[ ]root-part');
    expect(await long.end()).toMatchObject({ outcome: 'broken-off', mayGoOn: true });
    await until('its guard to have ended it', async () => (await running(desktop, 4165)) === 0);
    await until('the ledger', () => Object.values(slice()).some(({ fell }) => fell === 'gone'));

    await raised();
    await desktop.computer.read('pkill', '-STOP', '-x', 'doorstep');
    await until('the part to be gone', async () => (await parts(desktop)) === 0);
    await desktop.computer.read('pkill', '-CONT', '-x', 'doorstep');
    await until('the ledger', () => Object.values(slice()).filter(({ fell }) => fell === 'gone').length === 2);
    // Taken back by the person in the middle of it.
    await raised();
    const other = run({ title: 'Stays', body: 'sleep 4166' });
    await until('it to run', async () => (await running(desktop, 4166)) === 1);
    await person.pressStop();
    other.catch(() => undefined); // Nobody is left who would say how it ended.
    await until('all of it to be gone', async () => !(await parts(desktop)) && !(await running(desktop, 4166)));
  });
});

describe.skipIf(whyNoComputers())('by leave of the desk, where nobody there is administrator', () => {
  it('are raised once for that computer, that session and that technician, and run only what the desk signed', async () => {
    const desktop = await computerOf(house, 'samir');
    const { deskKey } = JSON.parse((await house.admin(['rights-key', '--json'])).out) as { deskKey: string };
    const there = (...args: string[]) =>
      desktop.computer.read('/opt/zesty-porch/bin/node', '/opt/zesty-porch/dist/doorstep.mjs', 'rights', ...args);
    await there('install', '--desk-key', deskKey);
    const { technician, rest, rights, run, runbook, tamper, slice, id, link } = await working(desktop);
    const ways = await rights.ways();
    expect(ways).toMatchObject({ installed: { deskKey } });
    const wanted = rights.wanted('remove the old chart package');
    // A second person first, as the desk rules it.
    await expect(rights.raise(wanted, 'desk', ways)).rejects.toMatchObject({ code: 'SECOND_YES_MISSING' });
    const leave = rights.askLeave(wanted);
    await until('it to be asked', () => technician.state.slices['risky-acts'][wanted.raiseId]?.standing === 'waits');
    await (await house.signedIn('Rune Takahashi')).giveSecondYes(id, wanted.raiseId, true);
    await leave;
    await rights.raise(wanted, 'desk', ways);
    const { leave: signed } = await until('the ledger', () => slice()[wanted.raiseId]);
    expect(await run({ title: 'Who', body: 'id -u' })).toMatchObject({ text: '0\n', outcome: 'done' });
    const given = await run(
      {
        title: 'With a value',
        body: 'echo "$GIVEN_WHERE"',
        parameters: [{ name: 'WHERE', label: 'Where', kind: 'text' }],
      },
      { WHERE: "the 'bridge' $(id)" },
    );
    expect(given.text).toBe("the 'bridge' $(id)\n");

    // Somebody on that computer who has read everything in the session has nothing by it.
    const [{ signKey: holderKey = '' } = {}] = Object.values(technician.state.participants).filter(
      ({ part }) => part === 'doorstep',
    );
    const begin = {
      ...{ do: 'begin', raiseId: wanted.raiseId, sessionId: id, holderKey, technicianKey: technician.keys.signKey },
      ...{ leave: signed, proof: '0'.repeat(128) },
    };
    const order = { do: 'run', runId: crypto.randomUUID(), text: '{}', values: {} };
    const answers = async (...lines: object[]) =>
      desktop.computer.read(
        'runuser',
        '-u',
        'samir',
        '--',
        '/opt/zesty-porch/bin/node',
        '-e',
        TALKS,
        JSON.stringify(lines),
      );
    expect(await answers(begin)).toContain('the desk has not given leave for this computer');
    expect(await answers(order)).toContain('it is not what the desk approved');
    expect(await answers({ do: 'read', path: '/etc/shadow' })).not.toContain('ready');
    // Another text than the desk signed, and none that it signed for another run, runs through the part.
    tamper.how = (chosen) => ({ ...chosen, text: chosen.text.replace('id -u', 'id -g') });
    await expect(run({ title: 'Other', body: 'id -u' })).rejects.toThrow('it is not what the desk approved');
    tamper.how = (chosen) => chosen;
    rights.lower(wanted.raiseId);
    await until('the part to be gone', async () => (await parts(desktop)) === 0);
    // Used once: not a second time, by whoever.
    await expect(refusal(rights.raise(wanted, 'desk', ways))).resolves.toMatch(/used already|not given leave|failed/);
    await setInForce(house, 'rights-by-desk', 'never');
    await expect(rights.raise(rights.wanted('again'), 'desk', ways)).rejects.toMatchObject({
      code: 'NOT_ALLOWED_BY_DESK',
    });
    await setInForce(house, 'rights-by-desk', '--as-it-comes');
    // Whoever has taken Doorstep itself over has its keys, and even a fresh leave; without two signatures nothing runs.
    await setInForce(house, 'rights-by-desk', 'alone');
    const { participantId, keys } = technician;
    const fresh = { raiseId: rights.wanted('').raiseId, participantId };
    await rest.giveRightsLeave(id, { ...fresh, deviceId: ways.installed?.deviceId ?? '', deskKey });
    const { leave: theirs } = await until('the leave', () => slice()[fresh.raiseId]);
    const { signSecret } = await keysOf(desktop, id, link);
    const taken = await takeOver(desktop, (nonce) => ({
      ...{ do: 'begin', raiseId: fresh.raiseId, sessionId: id, holderKey, technicianKey: keys.signKey, leave: theirs },
      proof: signBytesWith(signSecret, holderProofBytes(nonce, fresh.raiseId)),
    }));
    expect(await taken.says()).toEqual({ says: 'ready' });
    const orderOf = (text: string, values: RunbookValues, signed: RunbookValues) => {
      const run = { sessionId: id, runId: crypto.randomUUID(), hash: createHash('sha256').update(text).digest('hex') };
      return { do: 'run', runId: run.runId, text, values, signature: signBytes(keys, orderBytes(run, signed)) };
    };
    const { action: approved } = await inUse({ body: 'touch /root/x', rights: 'administrator' });
    const text = textOfAction(approved);
    for (const order of [
      orderOf(text, {}, {}),
      { ...orderOf(text, {}, {}), warrant: signBytes(keys, new Uint8Array(3)) },
      { ...orderOf(text.replace('/root/x', '/root/y'), {}, {}), warrant: '0'.repeat(128) },
    ])
      expect(await taken.ask(order)).toMatchObject({ says: 'refused', why: 'the desk has not signed this action' });
    const service = await aService(desktop);
    const stop = { do: 'service', actId: crypto.randomUUID(), act: 'stop', target: service.target };
    expect(await taken.ask(stop)).toMatchObject({ why: 'the desk has not signed this action' });
    const stopping = { sessionId: id, actId: crypto.randomUUID(), act: 'stop' as const, target: service.target };
    const signedStop = { ...stop, actId: stopping.actId, signature: signBytes(keys, serviceOrderBytes(stopping)) };
    expect(await taken.ask({ ...signedStop, target: 'computer/cron.service' })).toMatchObject({ says: 'refused' });
    expect(await service.isActive()).toBe(true);
    expect(await taken.ask({ ...signedStop, actId: crypto.randomUUID() })).toMatchObject({ says: 'refused' });
    expect(await taken.ask(signedStop)).toMatchObject({ says: 'acted', outcome: 'done' });
    expect(await taken.ask(signedStop)).toMatchObject({ says: 'refused', why: 'it was run already' });
    // Nor does a package go to where nobody signed, or to what its log does not know.
    const back = { packages: [{ id: 'sudo:amd64', from: '1.9', to: '1.2' }], services: [] };
    const putBack = { do: 'put-back', orderId: crypto.randomUUID(), back };
    const signedBack = {
      ...putBack,
      signature: signBytes(keys, backBytes({ sessionId: id, orderId: putBack.orderId }, back)),
    };
    const more = { ...back, services: [{ target: service.target, runs: false }] };
    for (const unsigned of [putBack, { ...signedBack, back: more }, { ...signedBack, orderId: crypto.randomUUID() }])
      expect(await taken.ask(unsigned)).toMatchObject({ why: 'the desk has not signed this action' });
    expect(await taken.ask(signedBack)).toMatchObject({ why: 'by its package log it was never like that here' });
    const asPerson = orderOf(textOfAction({ ...approved, rights: 'person' }), {}, {});
    expect(await taken.ask(asPerson)).toMatchObject({ why: 'it is not what the desk approved' });
    taken.close();
    runbook.close();
    await there('remove');
    const left =
      'ls -d /etc/zesty-porch* /etc/systemd/system/zesty-porch* /run/zesty-porch* /var/lib/zesty-porch* 2>/dev/null';
    expect(await desktop.computer.read('sh', '-c', `${left} || true`)).toBe('');
  });
});

/** A service of the computer that does nothing but run. */
async function aService({ computer }: Computer) {
  const unit = '[Service]\\nExecStart=/bin/sleep 4169\\n';
  const file = '/etc/systemd/system/quay-labels.service';
  await computer.read(
    'sh',
    '-c',
    `printf '${unit}' > ${file} && systemctl daemon-reload && systemctl start quay-labels`,
  );
  const isActive = async () =>
    (await computer.read('sh', '-c', 'systemctl is-active quay-labels || true')).trim() === 'active';
  return { target: 'computer/quay-labels.service', isActive };
}

/** A connection to the part that holds rights, which answers its number as `begin` says. */
async function takeOver({ computer }: Computer, begin: (nonce: string) => object) {
  const socket = createConnection(join(computer.root, 'run/zesty-porch-rights.socket'));
  const lines = createInterface({ input: socket })[Symbol.asyncIterator]();
  const says = async () => JSON.parse(String((await lines.next()).value)) as { says: string; nonce?: string };
  const say = (line: object) => socket.write(`${JSON.stringify(line)}\n`);
  say(begin((await says()).nonce ?? ''));
  return {
    says,
    ask: (line: object) => {
      say(line);
      return says();
    },
    close: () => socket.destroy(),
  };
}

/** Says lines to the part that holds rights, and prints what it answers until it ends. */
const TALKS = `
const socket = require('node:net').createConnection('/run/zesty-porch-rights.socket');
socket.on('data', (bytes) => process.stdout.write(bytes));
socket.on('error', () => undefined);
for (const line of JSON.parse(process.argv[1])) socket.write(JSON.stringify(line) + '\\n');
socket.on('close', () => process.exit(0));
`;
/** How many processes there sleep for so many seconds. */
const running = async ({ computer }: Computer, seconds: number): Promise<number> =>
  Number(await computer.read('sh', '-c', `pgrep -fc "^sleep ${seconds}" || true`));
