import { TechnicianHandsOff } from '@porch/client';
import { tellToCustomer, type Permission } from '@porch/core';
import { askAndAgree, House, startWorking, until, KeyCatcher } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* The customer's own hands and eyes rest: measured by another program on the same desktop, never by our own word. */
const [GREEN, VIOLET, COVER] = [0x20a040, 0x8030c0, 0x0a2a2f];
const BOX = { x: 60, y: 420, width: 200, height: 120 };
const [ESCAPE, LETTER_A, LETTER_S, CONTROL, ALT, LETTER_B] = [9, 38, 39, 37, 64, 56];
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

async function working(ticketRef = 'MF-201') {
  const s = await house.sessionUnderWay('Pim Aldersey', ticketRef, undefined, 'ticket-comment');
  const d = await house.withDoorstep(s.link);
  const { display } = d.desktop;
  const catcher = await KeyCatcher.at(display, BOX, GREEN);
  const work = await startWorking(s.technician, d.person);
  const handsOff = new TechnicianHandsOff(s.technician);
  await catcher.focus();
  const resting = () => handsOff.resting.map(({ what }) => what);
  return {
    ...s,
    ...d,
    ...work,
    display,
    catcher,
    handsOff,
    resting,
    told: () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence),
    standing: (permission: 'block-input' | 'cover-screen') =>
      s.technician.state.standings[s.technician.participantId]?.[permission]?.name,
    block: async () => {
      await askAndAgree(s.technician, d.person, ['block-input']);
      await until('it to be in force', () => resting().includes('input'));
      await catcher.focus();
    },
    cover: async () => {
      await askAndAgree(s.technician, d.person, ['cover-screen']);
      await until('the cover', () => resting().includes('screen'));
    },
    /** Whether what the person types arrives, once everything before it has. */
    personTypes: async () => {
      const before = catcher.heard.length;
      await d.person.tapKey(LETTER_A);
      await catcher.x.flush();
      return catcher.heard.slice(before).includes(LETTER_A);
    },
    /** What somebody in front of the screen sees in the middle of the other program. */
    seenThere: async () => (await catcher.screen({ x: BOX.x + 100, y: BOX.y + 60, width: 1, height: 1 }))[0],
    seenAnywhere: async (colour: number) =>
      (await catcher.screen({ x: 0, y: 0, width: 1280, height: 800 })).includes(colour),
    close: () => {
      handsOff.close();
      catcher.close();
    },
  };
}

it('their keys reach nothing while mine do, until they press the one that gives them back', async () => {
  const w = await working();
  expect(await w.personTypes()).toBe(true);
  await w.block();
  expect(await w.personTypes()).toBe(false);
  const at = await w.person.pointer();
  await w.person.click(at.x, at.y);
  expect(w.catcher.heard).not.toContain(-1);
  await until('what the technician types', () => {
    w.lease.open();
    w.act({ act: 'key', key: 'b', isDown: true }, { act: 'key', key: 'b', isDown: false });
    return w.catcher.heard.includes(LETTER_B);
  });
  const endsAtMs = w.handsOff.resting[0]?.endsAtMs ?? Infinity;
  expect(endsAtMs - w.technician.serviceNowMs).toBeLessThanOrEqual(5 * 60_000);
  expect(w.told()).toContain('Your own mouse and keyboard rest while Pim Aldersey works');

  await w.person.tapKey(ESCAPE);
  await until('their keys', w.personTypes);
  await until('the technician to hear of it', () => w.standing('block-input') === 'takenBack');
  expect(w.told()).toContain('Your own mouse and keyboard work again');
  expect(await w.person.keysDown()).toEqual([]);
  // Once over it is asked anew.
  await w.block();
  expect(await w.personTypes()).toBe(false);
  await w.technician.command({
    type: 'withdrawPermission',
    participantId: w.technician.participantId,
    permission: 'block-input',
    why: 'given back',
  });
  await until('their keys', w.personTypes);
  w.close();
});

it('their screen is covered for them alone: what lies beneath is seen, changes, and is clicked by the technician', async () => {
  const w = await working();
  const beneath = () => w.pixels()[(BOX.y + 60) * 1280 + BOX.x + 100];
  await until('the other program', () => beneath() === GREEN);
  await w.cover();
  await until('nothing else to be seen', async () => (await w.seenThere()) === COVER);
  expect(await w.seenAnywhere(GREEN), w.told().slice(-3).join('; ')).toBe(false);
  await until('a whole picture, vouched for', w.isFresh);
  expect(beneath()).toBe(GREEN);
  expect([...w.pixels()].includes(COVER)).toBe(false);
  // It changes beneath, a menu opens above everything, and the technician clicks on what they see.
  await w.catcher.paint(VIOLET);
  await until('the change', () => beneath() === VIOLET);
  const menu = await KeyCatcher.at(w.display, { x: 400, y: 300, width: 160, height: 200 }, GREEN);
  await until('the menu', () => w.pixels()[400 * 1280 + 480] === GREEN);
  expect(await w.seenAnywhere(GREEN), w.told().slice(-3).join('; ')).toBe(false);
  await until('the click', () => {
    w.lease.open();
    w.act(
      { act: 'button', x: 480, y: 400, button: 'left', isDown: true },
      { act: 'button', x: 480, y: 400, button: 'left', isDown: false },
    );
    return menu.heard.includes(-1);
  });
  expect(w.told()).toContain('Your screen is covered while Pim Aldersey works');

  await w.person.tapKey(ESCAPE);
  await until('their screen', async () => (await w.seenThere()) === VIOLET);
  await until('the technician to hear of it', () => w.standing('cover-screen') === 'takenBack');
  menu.close();
  await until('the menu to go', () => w.pixels()[400 * 1280 + 480] !== GREEN);
  w.close();
});

it('is refused where anything is unsure: an unconfirmed customer, a ship’s bridge, beside fetching files, in company', async () => {
  const asks = (technician: Awaited<ReturnType<typeof working>>['technician'], ...permissions: Permission[]) =>
    technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
  // Whoever came by a plain link says themselves who they are.
  const plain = await house.sessionUnderWay();
  const d = await house.withDoorstep(plain.link);
  await startWorking(plain.technician, d.person);
  for (const permission of ['block-input', 'cover-screen'] as const)
    await expect(asks(plain.technician, permission)).rejects.toMatchObject({ code: 'IDENTITY_UNCONFIRMED' });

  const bridge = await working('MF-203');
  await expect(asks(bridge.technician, 'cover-screen')).rejects.toMatchObject({ code: 'LABEL_FORBIDS' });
  await expect(asks(bridge.technician, 'block-input')).rejects.toMatchObject({ code: 'LABEL_FORBIDS' });
  bridge.close();

  const w = await working();
  await expect(asks(w.technician, 'block-input', 'cover-screen')).rejects.toMatchObject({ code: 'ASKED_ALONE' });
  await askAndAgree(w.technician, w.person, ['fetch-files']);
  await expect(asks(w.technician, 'cover-screen')).rejects.toMatchObject({ code: 'NEVER_TOGETHER' });
  const { participantId } = w.technician;
  await w.technician.command({
    type: 'withdrawPermission',
    participantId,
    permission: 'fetch-files',
    why: 'given back',
  });
  await w.cover();
  await expect(asks(w.technician, 'fetch-files')).rejects.toMatchObject({ code: 'NEVER_TOGETHER' });
  w.close();
});

it('a question and a private moment interrupt it; it goes on afterwards, no longer than it was allowed', async () => {
  const w = await working();
  await w.block();
  const [before] = w.handsOff.resting;
  // It can be answered with the person's own mouse.
  await w.technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['draw-on-screen'] });
  await until('the question', () => w.person.question());
  await until('it to rest', () => w.resting().length === 0);
  await w.person.answer(true, 1_100);
  await until('it to go on', () => w.resting().includes('input'));
  expect(w.handsOff.resting[0]?.endsAtMs).toBe(before?.endsAtMs);
  await w.catcher.focus();
  expect(await w.personTypes()).toBe(false);
  // Their page may be another device: there they can say that they do something private.
  await w.customer.command({ type: 'setPrivate', isOn: true });
  await until('their keys', w.personTypes);
  await w.customer.command({ type: 'setPrivate', isOn: false });
  await until('it to go on', () => w.resting().includes('input'));
  // Both at once, and one key lifts both.
  await w.cover();
  await until('both', () => w.resting().length === 2);
  await w.person.tapKey(ESCAPE);
  await until('their screen', async () => (await w.seenThere()) === GREEN);
  await w.catcher.focus();
  await until('their keys', w.personTypes);
  await until(
    'both to be over',
    () => w.standing('block-input') !== 'allowed' && w.standing('cover-screen') !== 'allowed',
  );
  w.close();
});

type Working = Awaited<ReturnType<typeof working>>;
const helpersOf = (pid: number | undefined) =>
  execFileSync('pgrep', ['-P', String(pid), '-f', ' rest '], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map(Number);

const takeBack = ({ customer, technician: { participantId } }: Working, permission: Permission) =>
  customer.command({ type: 'withdrawPermission', participantId, permission, why: 'enough' });

/** Both rest, and then they do not, though nobody pressed the key. */
async function restsUntil(w: Working, end: () => unknown): Promise<void> {
  await w.block();
  await w.cover();
  await until('both', async () => w.resting().length === 2 && (await w.seenThere()) === COVER);
  await w.catcher.focus();
  expect(await w.personTypes()).toBe(false);
  await end();
  await until('their screen', async () => (await w.seenThere()) === GREEN);
  await w.catcher.focus();
  await until('their keys', w.personTypes);
  expect(await w.person.keysDown()).toEqual([]);
}

it('keys and screen are theirs again when its processes die, the technician falls silent, or control is taken back', async () => {
  const w = await working();
  await restsUntil(w, () => helpersOf(w.doorstep.pid).forEach((pid) => process.kill(pid, 'SIGKILL')));
  await until(
    'both to be over',
    () => w.standing('block-input') === 'takenBack' && w.standing('cover-screen') === 'takenBack',
  );
  await restsUntil(w, () => takeBack(w, 'control-input'));
  await askAndAgree(w.technician, w.person, ['control-input']);
  await restsUntil(w, () => w.handsOff.close());
  w.close();
});

/** After these there is no session, or nobody who could say so. */
const endings: readonly [how: string, end: (w: Working) => unknown][] = [
  ['Control, Alt and S were pressed, which is Stop', ({ person }) => person.chord([CONTROL, ALT, LETTER_S])],
  ['Doorstep was killed', ({ doorstep }) => doorstep.kill('SIGKILL')],
  ['Doorstep stands still', ({ doorstep }) => doorstep.kill('SIGSTOP')],
  ['the service is gone', () => house.killService()],
];
it.each(endings)('keys and screen are theirs again when %s', async (how, end) => {
  const w = await working();
  await restsUntil(w, () => end(w));
  if (how === 'Doorstep stands still') w.doorstep.kill('SIGCONT');
  if (how === 'the service is gone') await house.startService();
  w.close();
});
