import { RingRefusedThere, TechnicianDesktops, type LiveConnection } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { doorstepThere, hangBellThere, whyNoComputers, type PersonAtDesk } from '@porch/demo';
import { askAndAgree, computerOf, dumpScreen, House, lookAt, ScreensBeside, startWorking, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Two people signed in at one stand-in computer: listed, asked each at their own desktop, and taken turns with. */
let house: House;
beforeAll(async () => (house = await House.open()));
afterAll(() => house.close());

const ASKED = /asked into a support session/;
type Computer = Awaited<ReturnType<typeof computerOf>>;
const [command = '', ...before] = doorstepThere;
const doorstep = ({ computer }: Computer, ...args: string[]) => computer.read(command, ...before, ...args);
const hangBell = ({ computer }: Computer, ...more: string[]) => hangBellThere(computer, house.url, ...more);

async function twoThere() {
  const desktop = await computerOf(house, 'bettina', 'none', ['samir']);
  const s = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, person, ['call-desktops']);
  const desktops = new TechnicianDesktops(s.technician, s.rest, () => undefined);
  const row = (account: string) => desktops.rows?.find((one) => one.account === account);
  const whoIsThere = () => desktops.rows?.map(({ account, isInFront }) => `${account}${isInFront ? ' in front' : ''}`);
  const rings = () => Object.values(s.technician.state.slices.desktops.rings);
  const ringAt = (account: string, signal?: AbortSignal) => desktops.ring(row(account)?.desktop ?? '', signal);
  const screens = new ScreensBeside(desktop);
  return { ...s, desktop, person, desktops, row, whoIsThere, rings, ringAt, screens };
}
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(String, (error: unknown) => (error instanceof RingRefusedThere ? error.message : String(error)));
/** Nobody is asked twice in a moment: rings until somebody is. */
async function atLast(ring: () => Promise<unknown>): Promise<string> {
  return until('somebody to be asked', async () => {
    const how = await refusal(ring());
    return how === 'somebody is being asked there already' ? undefined : how;
  });
}
/** Whoever said yes comes in with the technician's yes, and not before. */
async function changeOver(technician: LiveConnection): Promise<void> {
  const before = technician.state.holderId;
  const candidate = await until('them at the door', () => technician.state.candidateId);
  expect(technician.state.holderId, 'nobody takes a place by themselves').toBe(before);
  await technician.command({ type: 'answerChangeOver', participantId: candidate, isYes: true });
  await until('their place', () => technician.state.holderId === candidate);
}
/** What of ours runs there. */
async function processes({ computer }: Computer): Promise<{ bells: number; doorsteps: string }> {
  const count = async (words: string) => (await computer.read('sh', '-c', 'pgrep -fc "$0" || true', words)).trim();
  const doorsteps = await computer.read('sh', '-c', 'ps -o user= -C doorstep || true');
  return { bells: Number(await count('[ ]bell-part')), doorsteps };
}
/** One line to the bell, by a program of that account; what it answers, undefined where it only closes. */
async function saysBell({ computer }: Computer, login: 'bettina' | 'root', line: object): Promise<unknown> {
  const script = `const s=require('net').connect('/run/zesty-porch-bell.socket');s.write(process.argv[1]+'\\n');s.pipe(process.stdout)`;
  const args = ['-e', script, JSON.stringify(line)];
  const child =
    login === 'root' ? computer.atIt(command, args) : computer.startsFor(login).start('a stranger', command, args);
  let said = '';
  child.stdout?.on('data', (part: Buffer) => (said += part.toString()));
  await new Promise((resolve) => child.once('close', resolve));
  return said === '' ? undefined : JSON.parse(said);
}
const questionIsGone = (person: PersonAtDesk) =>
  until('the question to be gone', async () => (await person.question()) === undefined);

describe.skipIf(whyNoComputers())('several people at one computer', () => {
  it('are listed as the computer itself lists them, and as they come and go', async () => {
    const w = await twoThere();
    await until('the list', () => w.whoIsThere()?.join() === 'bettina in front');
    expect(w.row('bettina')?.whyNot).toBe('this-one');
    const samir = await w.screens.signIn('samir');
    await until('both', () => w.whoIsThere()?.join() === 'samir in front,bettina');
    expect(w.row('samir')).toMatchObject({ kind: 'person', whyNot: 'no-bell' });
    expect(await refusal(w.ringAt('samir'))).toBe('nobody can be asked at that desktop');
    expect(await samir.person.question()).toBeUndefined();
    w.screens.close();
  });

  it('are asked each at their own desktop: a no stays there, a yes takes the place, and nothing that was allowed moves', async () => {
    const w = await twoThere();
    await hangBell(w.desktop);
    expect(await doorstep(w.desktop, 'bell', 'show')).toContain(house.url);
    await askAndAgree(w.technician, w.person, ['view-screen']);
    const samir = await w.screens.signIn('samir');
    await until('the list', () => w.row('samir') && w.row('samir')?.whyNot === undefined);

    const no = w.ringAt('samir');
    const { text } = await samir.person.questionSaying(ASKED);
    expect(text).toMatch(/Pim Aldersey.*another desktop of this computer.*nothing of yours is shown/s);
    expect(await w.person.question(), 'only they are asked').toBeUndefined();
    await samir.person.press(ASKED, 'no');
    expect(await no).toBe('no');
    expect(w.technician.state.candidateId).toBeUndefined();
    await until('the bell to rest', async () => (await processes(w.desktop)).bells === 0);

    // What is taken back goes from their screen in the same moment.
    const stops = new AbortController();
    const rung = atLast(() => w.ringAt('samir', stops.signal));
    await samir.person.questionSaying(ASKED);
    stops.abort();
    await questionIsGone(samir.person);
    expect(await rung).toBe('taken-back');

    const yes = atLast(() => w.ringAt('samir'));
    await samir.person.press(ASKED, 'yes');
    expect(await yes).toBe('came');
    await changeOver(w.technician);
    const may = () => Object.values(w.technician.state.standings[w.technician.participantId] ?? {});
    expect(may().filter(({ name }) => name === 'allowed')).toEqual([]);
    const paint = w.desktop.computer.startsFor('samir').start('his ground', 'xsetroot', ['-solid', '#335577']);
    await new Promise((resolve) => paint.once('close', resolve));
    const seen = lookAt(w.technician);
    await askAndAgree(w.technician, samir.person, ['view-screen']);
    const ground = (pixels: Uint32Array) => pixels.filter((pixel) => pixel === 0x335577).length;
    await until('the picture of their desktop', () => seen.isFresh() && ground(seen.pixels()) > 300_000);
    expect(ground(dumpScreen(w.desktop.display))).toBe(0);
    seen.stop();
    w.screens.close();
  });

  it('are asked for nobody but who is signed in there, into sessions of one help desk, and never again after a no to it all', async () => {
    const w = await twoThere();
    await hangBell(w.desktop);
    const samir = await w.screens.signIn('samir');
    await until('the list', () => w.row('samir') && w.row('samir')?.whyNot === undefined);
    const ring = w.row('samir')?.desktop ?? '';
    const link = `${house.url}/join/${w.link}`;
    const nobody = { says: 'refused', why: 'nobody can be asked at that desktop' };
    const elsewhere = { says: 'refused', why: 'the link does not lead to this help desk' };
    for (const [line, answer] of [
      [{ ring, link: 'http://127.0.0.1:9/join/abc' }, elsewhere],
      [{ ring, link: `${house.url}@lying.example/join/abc` }, elsewhere],
      [{ ring, link: `${house.url}/receipt/abc` }, elsewhere],
      [{ ring: w.row('bettina')?.desktop, link }, nobody],
      [{ ring: '4163', link }, nobody],
      [{ ring: '../4163', link }, undefined],
      [{ ring, link, as: 'root' }, undefined],
    ] as const)
      expect(await saysBell(w.desktop, 'bettina', line), JSON.stringify(line)).toEqual(answer);
    expect(await saysBell(w.desktop, 'root', { ring, link }), 'who is signed in nowhere').toEqual(nobody);
    expect(await samir.person.question()).toBeUndefined();
    expect(w.rings()).toEqual([]);

    // What is under way ends with the permission, and nobody is asked with none.
    const rung = refusal(w.ringAt('samir'));
    await samir.person.questionSaying(ASKED);
    await w.customer.command({
      ...{ type: 'withdrawPermission', participantId: w.technician.participantId },
      ...{ permission: 'call-desktops', why: 'taken back on the page' },
    });
    expect(await rung).toBe('it is not allowed any longer');
    await questionIsGone(samir.person);
    await until('the ledger', () => w.rings().every(({ why }) => why === 'taken-back'));
    expect(w.desktops.rows).toBeUndefined();
    const told = tellToCustomer(w.customer.entries, ledger.en).map(({ sentence }) => sentence);
    expect(told).toContain('Pim Aldersey asked samir to come in, at their own desktop of your computer');
    await until('the bell to rest', async () => (await processes(w.desktop)).bells === 0);
    expect(await doorstep(w.desktop, 'bell', 'remove')).toContain('Removed');
    for (const left of ['etc/zesty-porch', 'run/zesty-porch-bell', 'run/zesty-porch-bell.socket', 'home/samir/.local'])
      expect(existsSync(join(w.desktop.computer.root, left)), left).toBe(false);
    w.screens.close();
  });

  it('have their sign-in screen seen and worked only where the computer’s owner opened it', async () => {
    const w = await twoThere();
    await hangBell(w.desktop);
    const { person, display: screen } = await w.screens.signInScreen();
    await until('it in the list', () => w.row('lightdm')?.whyNot === 'not-opened');
    expect(await refusal(w.ringAt('lightdm'))).toBe('nobody can be asked at that desktop');
    const ring = w.row('lightdm')?.desktop ?? '';
    const closed = await saysBell(w.desktop, 'bettina', { ring, link: `${house.url}/join/${w.link}` });
    expect(closed).toMatchObject({ says: 'refused' });
    expect(await person.question()).toBeUndefined();

    await hangBell(w.desktop, '--sign-in-screen');
    const yes = w.ringAt('lightdm');
    await person.press(ASKED, 'yes');
    expect(await yes).toBe('came');
    await changeOver(w.technician);
    // Seen and worked, and nothing more: nobody is signed in there as whom it could be done.
    const { cannot } = w.technician.state.participants[w.technician.state.holderId ?? ''] ?? {};
    expect(cannot).toMatchObject({ 'fetch-files': 'nobody-signed-in', 'run-runbook': 'nobody-signed-in' });
    expect([cannot?.['raise-rights'], cannot?.['view-screen']]).toEqual(['nobody-signed-in', undefined]);
    const hands = await startWorking(w.technician, person);
    const isTheSame = (display: string) => {
      const [shown, there] = [hands.pixels(), dumpScreen(display)];
      return shown.filter((pixel, i) => pixel === there[i]).length / there.length > 0.9;
    };
    expect([isTheSame(screen), isTheSame(w.desktop.display)]).toEqual([true, false]);
    const log = () => readFileSync(join(w.desktop.computer.root, 'var/log/lightdm/lightdm.log'), 'utf8');
    // Into its field for whom, which lies a little above its middle.
    const field = { x: 690, y: 360, button: 'left' } as const;
    hands.act({ act: 'move', x: field.x, y: field.y });
    hands.act({ act: 'button', ...field, isDown: true }, { act: 'button', ...field, isDown: false });
    hands.act({ act: 'text', text: 'samir' }, { act: 'key', key: 'Enter', isDown: true });
    hands.act({ act: 'key', key: 'Enter', isDown: false });
    await until('whom it signs in', () => log().includes('Greeter start authentication for samir'));
    hands.stop();

    // It goes with its screen, and leaves nothing of ours there.
    await w.technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
    await until('Doorstep to be gone', async () => !(await processes(w.desktop)).doorsteps.includes('lightdm'));
    expect(existsSync(join(w.desktop.computer.root, 'var/lib/lightdm/.local/state/zesty-porch'))).toBe(false);
    w.screens.close();
  });
});
