import { TechnicianHandsOff, type LiveConnection, type LocalPicture } from '@porch/client';
import type { Permission, Resting } from '@porch/core';
import type { PersonAtDesk } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { processorMs, sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const ESCAPE = 9;
const LETTER_A = 38;
const CHANGES = 60;
/** A window that somebody works in. */
const BOX = { x: 400, y: 300, width: 600, height: 400 };
const [FIRST, KEY_PRESS] = [0x204060, 1];

/** How soon hands and eyes rest, and are theirs again; and what the picture beneath a cover costs. */
export async function handsOffRows(
  technician: LiveConnection,
  picture: LocalPicture,
  { display, person, doorstepPid }: { display: string; person: PersonAtDesk; doorstepPid: number },
  agree: (permission: Permission) => Promise<unknown>,
): Promise<Row[]> {
  await agree('control-input');
  const handsOff = new TechnicianHandsOff(technician);
  const isResting = (what: Resting) => handsOff.resting.some((one) => one.what === what);
  const x = await XConnection.open(display, () => undefined);
  const { client, root } = x;
  const window = client.AllocID();
  client.CreateWindow(window, root, BOX.x, BOX.y, BOX.width, BOX.height, 0, 0, 1, 0, {
    overrideRedirect: 1,
    backgroundPixel: FIRST,
    eventMask: KEY_PRESS,
  });
  let heard = 0;
  client.on('event', (event) => event.name === 'KeyPress' && heard++);
  client.MapWindow(window);
  const paint = async (colour: number) => {
    client.ChangeWindowAttributes(window, { backgroundPixel: colour });
    client.ClearArea(window, 0, 0, 0, 0, 0);
    await x.flush();
  };
  const seen = () => {
    const { rgba, grid } = picture.viewer.picture;
    const at = ((BOX.y + 200) * (grid?.width ?? 0) + BOX.x + 300) * 4;
    return ((rgba[at] ?? 0) << 16) | ((rgba[at + 1] ?? 0) << 8) | (rgba[at + 2] ?? 0);
  };
  /** From a change of the window until the technician has it, and what Doorstep spends on it. */
  const changes = async (from: number) => {
    const waits: number[] = [];
    const [before, startedAt] = [processorMs(doorstepPid), performance.now()];
    for (let i = 1; i <= CHANGES; i++) {
      await sleep(100);
      const beganAt = performance.now();
      await paint(from + i);
      while (seen() !== from + i) await new Promise((resolve) => setImmediate(resolve));
      waits.push(performance.now() - beganAt);
    }
    const percent = ((processorMs(doorstepPid) - before) / (performance.now() - startedAt)) * 100;
    return { p50: quantile(waits, 0.5) ?? 0, p95: quantile(waits, 0.95) ?? 0, percent };
  };
  const plain = await changes(FIRST);

  await agree('cover-screen');
  await until('the cover', () => isResting('screen'));
  const beneath = await changes(FIRST + 1_000);

  await agree('block-input');
  const grantedAt = performance.now();
  await until('keys to rest', () => isResting('input'));
  const beginMs = performance.now() - grantedAt;
  client.SetInputFocus(window, 1);
  await x.flush();
  const liftedAt = performance.now();
  await person.tapKey(ESCAPE);
  for (heard = 0; heard === 0;) {
    await person.tapKey(LETTER_A);
    await x.flush();
  }
  const liftMs = performance.now() - liftedAt;
  handsOff.close();
  x.close();
  const ms = ({ p50, p95 }: { p50: number; p95: number }) => `${p50.toFixed(1)} / ${p95.toFixed(1)} ms`;
  return [
    {
      what: 'hands off: from the yes as the technician hears it until keys rest; from Escape until they work',
      value: `${beginMs.toFixed(0)} ms; ${liftMs.toFixed(1)} ms`,
      aim: '–',
    },
    {
      what: 'hands off: a window of 600×400 that changes, until the technician has it, beneath a cover / without one, median / p95',
      value: `${ms(beneath)} / ${ms(plain)}, ${(beneath.p50 / plain.p50).toFixed(2)} of the time`,
      aim: '–',
    },
    {
      what: 'hands off: Doorstep meanwhile, ten changes a second, beneath a cover / without one',
      value: `${beneath.percent.toFixed(1)} / ${plain.percent.toFixed(1)} % of a core`,
      aim: '–',
    },
  ];
}
