import { waitForWindow, type PersonAtDesk, type XDesktop } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import type { House } from './house.ts';
import { screenPixels } from './screen-pixels.ts';
import { until } from './until.ts';

const LETTER_A = 38;

/**
 * A program on a desktop with a message bus that asks for a name and a password; the name has the keyboard once this
 * resolves. `scale`: as its toolkit draws it; with 2 what it says of its place is not what the X server says.
 */
export async function signInForm(house: House, desktop: XDesktop, person: PersonAtDesk, scale = 1): Promise<void> {
  house.processes.start(
    'a sign-in',
    'zenity',
    ['--forms', '--title=Sign in', '--text=Crew list', '--add-entry=Name', '--add-password=Password'],
    { env: { ...desktop.env, GDK_SCALE: String(scale) }, stdio: 'ignore' },
  );
  const form = await waitForWindow(desktop.display, /^Sign in$/);
  const x = await XConnection.open(desktop.display, () => undefined);
  const screen = async () => screenPixels(x, { x: 0, y: 0, ...(await x.size()) });
  const isSame = (a: Uint32Array, b: Uint32Array) => a.every((pixel, at) => pixel === b[at]);
  const hasKeyboard = async () => {
    let { focus } = await x.ask<{ focus: number }>((cb) => x.client.GetInputFocus(cb));
    while (focus > 1 && focus !== form && focus !== x.root)
      focus = (await x.ask<{ parent: number }>((cb) => x.client.QueryTree(focus, cb))).parent;
    return focus === form;
  };
  try {
    await until('the form to have the keyboard', hasKeyboard);
    // Drawn, and still: what changes now is what is typed.
    let before = await screen();
    await until('the form to be drawn', async () => {
      const last = before;
      before = await screen();
      return isSame(last, before);
    });
    await until('what is typed to be seen', async () => {
      await person.tapKey(LETTER_A);
      return !isSame(before, await screen());
    });
  } finally {
    x.close();
  }
}
