import { TechnicianDoor, type LiveConnection, type RestClient } from '@porch/client';
import type { PersonAtDesk, XDesktop } from '@porch/demo';
import { House, until } from '@porch/testkit';
import { execFileSync, type ChildProcess } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* A standing consent from end to end: made, used, refused, locked, ended; on a real desktop, against the real service. */
let house: House;
let desktop: XDesktop;
let person: PersonAtDesk;
let waiting: ChildProcess;
let rest: RestClient;
let words = '';
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  rest = await house.signedIn();
});
afterAll(() => house.close());

const press: PersonAtDesk['press'] = (...what) => person.press(...what);
/** Asked a few times a second: the service counts requests. */
const device = async () => {
  await new Promise((resolve) => setTimeout(resolve, 150));
  return (await rest.devices())[0];
};
const stateFolder = () => join(desktop.home, 'state');
/** All files of the account that have to do with us. */
const leftovers = () =>
  readdirSync(desktop.home, { recursive: true })
    .map(String)
    .filter((file) => /zesty|standing|visits|facts/.test(file));

/** A visit of Pim's, with what proves the second secret. */
async function visit(): Promise<{ live: LiveConnection; look: TechnicianDoor; id: string }> {
  const known = await until('the device to be on', async () => {
    const now = await device();
    return now && now.state !== 'offline' ? now : undefined;
  });
  const { session } = await rest.start({ deviceId: known.id });
  const live = await house.technician(rest, session.id);
  const look = new TechnicianDoor(live);
  await until('the device to ask for the secret', () => live.state.holderId !== undefined);
  look.knock();
  await until('the device to say what it wants', () => look.state.name === 'wanted');
  return { live, look, id: session.id };
}
const standing = (live: LiveConnection, permission: 'view-screen' | 'control-input' | 'give-files') =>
  live.state.standings[live.participantId]?.[permission]?.name;
const ask = (live: LiveConnection, permission: 'view-screen' | 'control-input' | 'give-files') =>
  live.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: [permission] });

it('is made by the person at the desktop: what, how long, and words that the technician who looks on does not see', async () => {
  const { technician, link, id } = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  ({ desktop, person, doorstep: waiting } = await house.withDoorstep(link, { programs: 'editor' }));
  await until('Doorstep', () => technician.state.holderId);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  await press(/see your screen/, 'yes');
  await until('seeing', () => standing(technician, 'view-screen') === 'allowed');
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['keep-device'] });
  const first = await press(/connect to this computer later/, 'yes', { i: 1, of: 4 });
  expect(first).toContain('tern-quay-04');
  await press(/For how long/, 'yes', { i: 1, of: 3 });
  const before = (await person.questionSaying(/This passphrase lets the desk connect later/)).text.split('\n')[1] ?? '';
  await press(/This passphrase/, 'more');
  words = await until('other words', async () => {
    const now = (await person.question())?.text.split('\n')[1] ?? '';
    return now.includes('-') && now !== before ? now : undefined;
  });
  expect(words.split('-')).toHaveLength(5);
  expect(await device(), 'nothing is kept before the last yes').toBeUndefined();
  await press(/This passphrase/, 'yes');
  const kept = await until('the device', async () => {
    const now = await device();
    return now?.state === 'in-use' ? now : undefined;
  });
  expect(kept).toMatchObject({
    name: 'tern-quay-04',
    customerName: 'Bettina Crole',
    allowed: ['view-screen', 'control-input'],
    asksEachVisit: true,
  });
  expect(Math.round((kept.untilMs - Date.now()) / 86_400_000)).toBe(30);
  // The words are in no file and in no table.
  const file = join(stateFolder(), 'standing.json');
  expect(statSync(file).mode & 0o077).toBe(0);
  // As a word: one of them may stand within the desk's own name.
  for (const word of words.split('-')) expect(readFileSync(file, 'utf8')).not.toMatch(new RegExp(`\\b${word}\\b`));
  expect(existsSync(join(desktop.home, '.config', 'autostart', 'zesty-porch-waiting.desktop'))).toBe(true);
  // There is room for one: from now on the technician reads why there can be no other.
  const whyNoOther = () =>
    technician.state.participants[technician.state.holderId ?? '']?.cannot['keep-device'] ===
    'no-standing-consent-here';
  await until('what is possible to be told anew', whyNoOther);
  await rest.session(id);
  await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
});

it('lets in who knows the words, asks whoever sits there first, and grants what it covers without a question', async () => {
  const { live, look, id } = await visit();
  expect(live.state.standings[live.participantId]).toBeUndefined();
  await expect(ask(live, 'view-screen')).rejects.toMatchObject({ code: 'ACCEPTANCE_MISSING' });
  await look.prove(words.replaceAll('-', ' '));
  await until('the device to agree', () => look.state.name === 'right');
  await press(/wants to connect to this computer/, 'yes');
  await until('the visit', () => live.state.phase.name === 'live');
  await ask(live, 'view-screen');
  await until('seeing', () => standing(live, 'view-screen') === 'allowed');
  await ask(live, 'control-input');
  await until('working', () => standing(live, 'control-input') === 'allowed');
  expect(await person.question(), 'nobody was asked').toBeUndefined();
  // What it does not cover is asked as ever.
  await ask(live, 'give-files');
  await press(/give you files/, 'no');
  await until('the no', () => standing(live, 'give-files') === 'saidNo');
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.stop.x, bar.stop.y);
  await until('the end', () => live.state.phase.name === 'ended');
  expect((await rest.deviceVisits(live.state.deviceId ?? ''))[0]?.sessionId).toBe(id);
  look.close();
});

it('is over when whoever sits there does not want this visit', async () => {
  const { live, look } = await visit();
  await look.prove(words);
  await press(/wants to connect/, 'no');
  await until('the end', () => live.state.phase.name === 'ended');
  expect(standing(live, 'view-screen')).toBeUndefined();
  look.close();
});

it('is locked after five wrong tries, also over several visits; then only a yes at the device lets anybody in', async () => {
  const one = await visit();
  for (let left = 4; left >= 2; left--) {
    await one.look.prove('otter lamp harbour tern');
    await until('the refusal', () => {
      const { state } = one.look;
      return state.name === 'wrong' && state.triesLeft === left;
    });
  }
  await one.live.command({ type: 'endSession', reason: 'technician', why: 'x', fact: undefined });
  one.look.close();
  const { live, look } = await visit();
  for (let left = 1; left >= 0; left--) {
    await look.prove('otter lamp harbour tern');
    await until('the refusal', () => {
      const { state } = look;
      return state.name === 'wrong' && state.triesLeft === left;
    });
  }
  await look.prove(words);
  await until('the right words are refused, too', () => look.state.name === 'wrong');
  expect(live.state.phase.name).not.toBe('live');
  look.askWhoIsThere();
  await press(/wants to help you/, 'yes');
  await until('the yes', () => live.state.phase.name === 'live');
  await ask(live, 'view-screen');
  expect(await press(/see your screen/, 'yes'), 'each thing is asked now').toContain('Pim');
  await until('seeing', () => standing(live, 'view-screen') === 'allowed');
  await live.command({ type: 'endSession', reason: 'technician', why: 'x', fact: undefined });
  look.close();
});

it('lists every visit at the device, and is ended there in one step without the service; nothing is left behind', async () => {
  const doorstep = (...args: string[]) =>
    execFileSync(process.execPath, [join(inject('root'), 'dist', 'doorstep.mjs'), ...args, '--state', stateFolder()], {
      env: { ...process.env, HOME: desktop.home, LANG: 'en_GB.UTF-8' },
      encoding: 'utf8',
    });
  const shown = JSON.parse(doorstep('standing', 'show', '--json')) as { visits: { hasBegun: boolean }[] };
  expect(shown.visits.map((v) => v.hasBegun)).toEqual([false, false, false, true]);
  expect(doorstep('standing')).toMatch(/Marrowick Ferries.*may, as “tern-quay-04”, for 30 more days/);
  const { id } = (await device()) ?? { id: '' };
  await house.killService();
  expect(doorstep('standing', 'end')).toMatch(/Ended/);
  expect(doorstep('standing')).toMatch(/Nobody may connect/);
  await until('nothing to be left', () => leftovers().length === 0);
  await house.startService();
  // The program that waited still knows how to tell, and goes once it is told.
  rest = await house.signedIn();
  await until('the desk to hear of it', async () => (await rest.devices('tern'))[0]?.ended?.how === 'at-the-device');
  await until('Doorstep to go', () => waiting.exitCode !== null);
  await expect(rest.start({ deviceId: id })).rejects.toMatchObject({ code: 'DEVICE_NOT_FOUND' });
});

it('does not read a file that others could have written', () => {
  const folder = join(house.folder, 'unsafe');
  execFileSync('mkdir', ['-p', folder]);
  writeFileSync(join(folder, 'standing.json'), '{}', { mode: 0o644 });
  const run = () =>
    execFileSync(process.execPath, [join(inject('root'), 'dist', 'doorstep.mjs'), 'wait', '--state', folder], {
      stdio: 'pipe',
      encoding: 'utf8',
    });
  expect(run).toThrow(/not this account's alone/);
});
