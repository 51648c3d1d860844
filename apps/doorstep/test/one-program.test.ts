import { COVER_COLOUR } from '@porch/host';
import { XConnection } from '@porch/doorstep';
import {
  askAndAgree,
  chooseShown,
  dumpScreen,
  House,
  KeyCatcher,
  lookAt,
  showOnlyTopmostAndAgree,
  until,
} from '@porch/testkit';
import { tellToCustomer } from '@porch/core';
import { ledger } from '@porch/words/ledger';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { hasCompositor } from '../src/x11/server/compositor.ts';

/* One program only, on a real desktop: what of it is seen, what of others is not, and what can be worked. */
const [GREEN, RED, BLUE] = [0x2f7d4f, 0xb03a2e, 0x2255aa];
const [TICKETS, PRIVATE] = ['Quay tickets', 'Bank statement'];
const LETTER_A = 38;
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

/** Another window of a program that is there. */
async function open(x: XConnection, box: { x: number; y: number; width: number; height: number }, colour: number) {
  const window = x.client.AllocID();
  x.client.CreateWindow(window, x.root, box.x, box.y, box.width, box.height, 0, 0, 1, 0, {
    overrideRedirect: 1,
    backgroundPixel: colour,
  });
  x.client.MapWindow(window);
  await x.flush();
  return window;
}

async function showingOne(isComposited = false) {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, { programs: 'none' });
  const { display } = d.desktop;
  if (isComposited) {
    const eye = await XConnection.open(display, () => undefined);
    house.processes.start('compositor', 'xcompmgr', ['-d', display]);
    await until('the compositor', () => hasCompositor(eye));
    eye.close();
  }
  const secret = await KeyCatcher.titled(display, PRIVATE, { at: [700, 300], colour: RED });
  const tickets = await KeyCatcher.titled(display, TICKETS, { at: [150, 250], colour: GREEN });
  await until('Doorstep', () => s.technician.state.holderId);
  await s.technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  const asked = await showOnlyTopmostAndAgree(d.person, 2);
  expect(asked).toContain('will see “Quay tickets” only');
  expect(asked).not.toContain('everything');
  const seen = lookAt(s.technician);
  const pixel = (x: number, y: number) => seen.pixels()[y * 1280 + x];
  await until('the program', () => seen.isFresh() && pixel(300, 400) === GREEN);
  return { ...s, ...d, ...seen, secret, tickets, pixel };
}

it.each([
  ['the X server', false],
  ['a compositor', true],
])(
  'is all that is seen where %s draws, with its menus, beneath what lies over it; chosen at the question',
  async (_who, isComposited) => {
    const w = await showingOne(isComposited);
    const { pixel } = w;
    expect([pixel(900, 450), pixel(640, 150), pixel(20, 700)]).toEqual(Array(3).fill(COVER_COLOUR));
    const menu = await open(w.tickets.x, { x: 560, y: 200, width: 120, height: 200 }, BLUE);
    await until('its menu', () => pixel(600, 300) === BLUE);
    w.tickets.x.client.MoveWindow(w.tickets.window, 150, 350);
    await until('it where it moved', () => pixel(300, 620) === GREEN && pixel(300, 300) === COVER_COLOUR);
    // What another program opens over it, with its own notification or dialog, is not.
    const over = await open(w.secret.x, { x: 200, y: 420, width: 100, height: 100 }, RED);
    await until('it to be covered', () => pixel(250, 470) === COVER_COLOUR && pixel(400, 470) === GREEN);
    w.secret.x.client.DestroyWindow(over);
    w.tickets.x.client.DestroyWindow(menu);
    await Promise.all([w.secret.x.flush(), w.tickets.x.flush()]);
    await until('it to be gone', () => pixel(250, 470) === GREEN && pixel(600, 300) === COVER_COLOUR);
    expect(w.technician.state.slices['one-program'].shows).toBe('program');
    expect(w.pixels()).not.toContain(RED);
  },
);

it('is seen with the frame that the window manager puts around it, and with nothing beside it', async () => {
  const s = await house.sessionUnderWay();
  const { desktop, person } = await house.withDoorstep(s.link, { programs: 'editor' });
  await until('Doorstep', () => s.technician.state.holderId);
  await s.technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  await showOnlyTopmostAndAgree(person, 1);
  const seen = lookAt(s.technician);
  await until('the picture', seen.isFresh);
  await until('a quarter of the screen, as it is', () => {
    const [screen, shown] = [dumpScreen(desktop.display), seen.pixels()];
    const covered = shown.filter((word) => word === COVER_COLOUR).length / shown.length;
    return covered > 0.6 && covered < 0.8 && shown.every((word, i) => word === COVER_COLOUR || word === screen[i]);
  });
});

it('cannot be left by those who work: what is covered is neither clicked nor typed into', async () => {
  const w = await showingOne();
  await askAndAgree(w.technician, w.person, ['control-input']);
  w.lease.open();
  await until('a lease', () => w.lease.state.name === 'open');
  const dropped: string[] = [];
  w.lease.listeners.on('dropped', (why) => dropped.push(why));
  const click = (x: number, y: number) => {
    for (const isDown of [true, false]) w.lease.act({ act: 'button', button: 'left', x, y, isDown });
  };
  const type = () => {
    for (const isDown of [true, false]) w.lease.act({ act: 'key', key: 'a', isDown });
  };
  await w.tickets.focus();
  await until('a click and a key', () => {
    if (w.lease.state.name === 'open' && w.tickets.heard.length < 2) {
      click(300, 400);
      type();
    }
    return w.tickets.heard.includes(-1) && w.tickets.heard.includes(LETTER_A);
  });
  click(900, 450);
  await until('the refusal', () => dropped.includes('that part of the screen is not shown'));
  await w.secret.focus();
  type();
  await until('the other refusal', () => dropped.includes('what has the keyboard is not shown'));
  w.lease.act({ act: 'move', x: 900, y: 450 });
  w.lease.act({ act: 'text', text: 'nothing of this' });
  await w.tickets.focus();
  const before = w.tickets.heard.length;
  await until('a key again', () => {
    type();
    return w.tickets.heard.length > before;
  });
  expect(w.secret.heard).toEqual([]);
  expect((await w.person.pointer()).x).toBeLessThan(600);
});

it('is over with its last window, for good, until another choice is made at the bar', async () => {
  const w = await showingOne();
  const shows = () => w.technician.state.slices['one-program'].shows;
  w.tickets.close();
  await until('its end', () => shows() === 'nothing');
  // The server gives its number, and those of its windows, to the next one that comes.
  const next = await KeyCatcher.titled(w.desktop.display, 'Another one', { at: [150, 250], colour: BLUE });
  await until('nothing', () => w.pixel(300, 400) === COVER_COLOUR);
  const bar = await until('the bar', () => w.person.bar());
  await w.person.click(bar.hide.x, bar.hide.y);
  await chooseShown(w.person, 2, 4);
  await until('the other one', () => w.pixel(300, 400) === BLUE && w.pixel(900, 450) === COVER_COLOUR);
  await w.person.click(bar.hide.x, bar.hide.y);
  await chooseShown(w.person, 0, 4);
  await until('everything', () => w.pixel(300, 400) === BLUE && w.pixel(900, 450) === RED);
  await until('the ledger', () => shows() === 'everything');
  const told = () =>
    tellToCustomer(w.customer.entries, ledger.en)
      .map(({ sentence }) => sentence)
      .filter((sentence) => /^(You showed|The program)/.test(sentence));
  // Everybody has a line of their own to the service; theirs may be the slower one.
  await until('what the customer is told', () => told().length === 4);
  expect(told()).toEqual([
    'You showed one program only',
    'The program that you showed was closed: nothing was shown',
    'You showed one program only',
    'You showed everything that you did not hide',
  ]);
  // Which one it was stays there.
  expect(JSON.stringify(w.customer.entries)).not.toContain(TICKETS);
  next.close();
});
