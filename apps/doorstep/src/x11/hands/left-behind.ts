import { setTimeout as sleep } from 'node:timers/promises';
import type { XTest } from 'x11';
import type { XConnection } from '../server/connection.ts';

/* What a program of ours leaves at the X server when it dies, and how whoever comes after it puts that right. */

export const KEY_PRESS = 2;
export const BUTTON_PRESS = 4;
/** Names of the borrowed keycodes stand on the root window, so that whoever comes after a crash can give them back. */
export const LENT_PROPERTY = '_ZESTY_PORCH_LENT_KEYCODES';
/**
 * What is pressed through us stands on the root window, told on the same connection before it is pressed and after it was
 * let go: as long as the X server lives it knows, and whoever comes after a crash of everything of ours lets go of it.
 */
export const PRESSED_PROPERTY = '_ZESTY_PORCH_PRESSED';
/** Keycodes begin at 8, so the numbers of buttons stand below them without being mistaken. */
export const LEAST_KEYCODE = 8;
/** How often, and how long in between, it is looked whether something was pressed after its program had died. */
const LATE_LOOKS = 20;
const LATE_LOOK_MS = 50;

/** Lets go of what an earlier program of ours left pressed. */
export async function releasePressed(x: XConnection, xtest: XTest): Promise<void> {
  const property = await x.atom(PRESSED_PROPERTY);
  const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, x.root, property, 0, 0, 64, cb));
  for (const number of data)
    xtest.FakeInput(number >= LEAST_KEYCODE ? KEY_PRESS + 1 : BUTTON_PRESS + 1, number, 0, 0, 0, 0);
  if (data.length) x.client.DeleteProperty(x.root, property);
  await x.flush();
}

/**
 * What Doorstep wrote before it died may lie unread in its connection when another lets go: the X server serves connections
 * in turn, and presses afterwards. What it presses stands on the root window, so it is looked there for a second more.
 */
export async function releaseWhatComesLate(x: XConnection, xtest: XTest): Promise<void> {
  await releasePressed(x, xtest);
  for (let look = 1; look < LATE_LOOKS; look++) {
    await sleep(LATE_LOOK_MS);
    await releasePressed(x, xtest);
  }
}

/** Gives borrowed keycodes back: at the end, and after a Doorstep that could not. */
export async function returnLentKeycodes(x: XConnection): Promise<void> {
  const property = await x.atom(LENT_PROPERTY);
  const lent = await x.ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, x.root, property, 0, 0, 64, cb));
  if (!lent.data.length) return;
  const [row] = await x.ask<number[][]>((cb) => x.client.GetKeyboardMapping(x.client.display.min_keycode, 1, cb));
  const width = row?.length ?? 2;
  for (const keycode of lent.data) x.client.ChangeKeyboardMapping(keycode, width, new Array<number>(width).fill(0));
  x.client.DeleteProperty(x.root, property);
  await x.flush();
}
