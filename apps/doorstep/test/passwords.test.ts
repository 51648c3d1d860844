import { tellToCustomer } from '@porch/core';
import { COVER_COLOUR } from '@porch/host';
import { askAndAgree, House, lookAt, signInForm, until, KeyCatcher } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TellingProgram } from './telling-program.ts';

/* Passwords and notifications on a real desktop with a message bus: programs as they come, looked at from both sides. */
const [TAB, LETTER_A] = [23, 38];
const CARDINAL = 6;
/** A role of AT-SPI. */
const PASSWORD_TEXT = 40;
const WIDTH = 1280;
/** Of the ground of a notification. */
const NOTIFICATION = 0xf2efe6;
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}
/** What bounds every pixel beneath the bar and within the frame around the screen of which this is true; undefined: none. */
function boundsWhere(isOne: (at: number) => boolean): Box | undefined {
  let found: Box | undefined;
  for (let at = 0; at < WIDTH * 800; at++) {
    const [x, y] = [at % WIDTH, Math.floor(at / WIDTH)];
    if (y < 60 || y > 780 || x < 10 || x > 1_270 || !isOne(at)) continue;
    found = {
      left: Math.min(found?.left ?? x, x),
      top: Math.min(found?.top ?? y, y),
      right: Math.max(found?.right ?? x, x),
      bottom: Math.max(found?.bottom ?? y, y),
    };
  }
  return found;
}
/** Around the form, in the middle of the screen. */
const isAtForm = (at: number): boolean => {
  const [x, y] = [at % WIDTH, Math.floor(at / WIDTH)];
  return x > 440 && x < 840 && y > 300 && y < 540;
};
const isIn = (inner: Box | undefined, outer: Box | undefined): boolean =>
  !!inner &&
  !!outer &&
  inner.left >= outer.left &&
  inner.top >= outer.top &&
  inner.right <= outer.right &&
  inner.bottom <= outer.bottom;

async function looking() {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, { hasBus: true });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, d.person, ['view-screen']);
  const seen = lookAt(s.technician);
  await until('the picture', seen.isFresh);
  const { desktop, person } = d;
  const eye = await KeyCatcher.at(desktop.display, { x: 0, y: 790, width: 10, height: 10 }, 0x20a040);
  const screen = () => eye.screen({ x: 0, y: 0, width: WIDTH, height: 800 });
  return {
    ...s,
    ...d,
    seen,
    screen,
    told: () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence),
    care: () => s.technician.state.slices.passwords.typing?.care,
    /** What of the technician's picture is covered. */
    patch: () => {
      const pixels = seen.pixels();
      return boundsWhere((at) => pixels[at] === COVER_COLOUR);
    },
    close: () => {
      seen.stop();
      eye.close();
    },
    /** Asks for a name and a password; the name has the keyboard. */
    signIn: () => signInForm(house, desktop, person),
  };
}

it('covers the field for a password and nothing else, from the first character until the keyboard goes on', async () => {
  const w = await looking();
  await w.signIn();
  await until('the picture to be still', w.seen.isFresh);
  expect(w.patch()).toBeUndefined();
  await w.person.tapKey(TAB);
  await until('the field alone', () => {
    const patch = w.patch();
    return patch !== undefined && patch.bottom - patch.top < 60;
  });
  await until('the technician to hear of it', () => w.care() === 'covered');
  const before = await w.screen();
  for (let i = 0; i < 6; i++) await w.person.tapKey(LETTER_A);
  const typed = await until('what was typed on the screen', async () => {
    const now = await w.screen();
    return boundsWhere((at) => before[at] !== now[at] && isAtForm(at));
  });
  // By the screen itself it lies in there; and around it the picture is the screen.
  expect(isIn(typed, w.patch()), JSON.stringify({ typed, patch: w.patch() })).toBe(true);
  await until('the rest to be as it is', async () => {
    const [pixels, screen] = [w.seen.pixels(), await w.screen()];
    return isIn(
      boundsWhere((at) => pixels[at] !== screen[at] && isAtForm(at)),
      w.patch(),
    );
  });

  await w.person.tapKey(TAB);
  await until('nothing covered', () => w.patch() === undefined);
  await until('the technician to hear of it', () => w.care() === undefined);
  await until('her page to tell it', () => w.told().includes('You were done with the field for passwords'));
  expect(w.told()).toContain('You typed into a field for passwords; it was covered');
  w.close();
});

it('shows nobody the notifications that come meanwhile, neither then nor as long as they last', async () => {
  const w = await looking();
  const { bus } = w.desktop;
  const onScreen = async () => {
    const now = await w.screen();
    return boundsWhere((at) => now[at] === NOTIFICATION);
  };
  const inPicture = () => w.seen.pixels().includes(NOTIFICATION);
  bus?.notify('Crew chat', 'Ingrid: coffee at ten?');
  await until('one that anybody may see', inPicture);
  await w.signIn();
  await w.person.tapKey(TAB);
  await until('the technician to hear of it', () => w.care() === 'covered');
  await until('the one that was there not to be seen', () => !inPicture());
  expect(await onScreen()).toBeDefined();
  bus?.notify('Sign-in code', '114 207');
  const first = await onScreen();
  await until('another one on the screen', async () => JSON.stringify(await onScreen()) !== JSON.stringify(first));
  await w.person.tapKey(TAB);
  await until('the field not to be covered', () => w.care() === undefined);
  // What came then is nobody's as long as it is there.
  await until('a whole picture, vouched for', w.seen.isFresh);
  expect(await onScreen()).toBeDefined();
  expect(inPicture()).toBe(false);
  execFileSync('dunstctl', ['close-all'], { env: w.desktop.env });
  await until('all gone', async () => (await onScreen()) === undefined);
  bus?.notify('Crew chat', 'Ingrid: make it eleven');
  await until('one that anybody may see', inPicture);
  w.close();
});

/** Our own window, as the X server knows it, with a field in it as its program tells of it. */
async function telling(w: Awaited<ReturnType<typeof looking>>) {
  const window = { x: 300, y: 200, width: 400, height: 200 };
  const field = { x: 340, y: 260, width: 200, height: 30 };
  const catcher = await KeyCatcher.at(w.desktop.display, window, 0x8030c0);
  const { client } = catcher.x;
  const pid = Buffer.alloc(4);
  pid.writeUInt32LE(process.pid);
  client.ChangeProperty(0, catcher.window, await catcher.x.atom('_NET_WM_PID'), CARDINAL, 32, pid);
  const program = await TellingProgram.on(w.desktop.env, { role: PASSWORD_TEXT, field, window });
  await catcher.focus();
  return {
    ...{ window, field, catcher, program },
    close: () => {
      program.close();
      catcher.close();
    },
  };
}

it('rests the picture where nobody is sure where the field lies, until the keyboard goes on or the person says so', async () => {
  const w = await looking();
  const t = await telling(w);
  // Told rightly: only the field, with a margin.
  t.program.focus(true);
  await until('the field alone', () => w.patch()?.left === t.field.x - 3 && w.patch()?.bottom === t.field.y + 32);
  // It moves within its window, and then is said to be where its window is not.
  t.program.says.field = { ...t.field, y: t.field.y + 40 };
  await until('the field where it is now', () => w.patch()?.top === t.field.y + 37);
  t.program.says.window = { ...t.window, x: 20 };
  await until('the technician to hear of it', () => w.care() === 'paused');
  await until('the picture to be old', () => (w.seen.picture.standing.ageMs ?? 0) > 2_000);
  const bar = await until('the bar', () => w.person.bar());
  await w.person.click(bar.private.x, bar.private.y);
  await until('the picture again', w.seen.isFresh);
  expect(w.technician.state.slices.presence.privateAt, 'nothing private was begun').toEqual([]);
  await until('the technician to hear of it', () => w.care() === undefined);
  // Later it is asked about anew; without an answer nobody is sure, either.
  t.program.focus(false);
  t.program.says.field = 'nothing';
  await until('the bar without it', async () => {
    t.program.focus(true);
    return w.care() === 'paused';
  });
  t.program.focus(false);
  await until('the picture again', w.seen.isFresh);
  await until('the technician to hear of it', () => w.care() === undefined);
  t.close();
  w.close();
});

it('is not harmed by a program that tells nonsense, knots or far too much, and forgets one that goes', async () => {
  const w = await looking();
  const t = await telling(w);
  const { says } = t.program;
  t.program.says = { ...says, role: 'a password' };
  t.program.focus(true);
  t.program.says = { ...says, isKnot: true };
  t.program.focus(true);
  await until('nobody to be sure', () => w.care() === 'paused');
  t.program.focus(false);
  await until('the picture again', w.seen.isFresh);
  t.program.says = { ...says, field: 'nonsense' };
  const before = w.technician.entries.length;
  for (let i = 0; i < 2_000; i++) t.program.focus(i % 2 === 0);
  t.program.focus(true);
  await until('nobody to be sure', () => w.care() === 'paused');
  expect(w.technician.entries.length - before).toBeLessThan(8);
  t.close();
  await until('it to be forgotten', () => w.care() === undefined);
  await until('the picture again', w.seen.isFresh);
  // The bus goes: nothing is noticed any longer, and Doorstep works on.
  w.desktop.bus?.daemon.kill('SIGKILL');
  await until('the picture again', w.seen.isFresh);
  expect(w.doorstep.exitCode).toBeNull();
  w.close();
});
