import { createInterface } from 'node:readline';
import { releaseWhatComesLate, returnLentKeycodes } from './x11/hands/left-behind.ts';
import { XConnection } from './x11/server/connection.ts';
import { findExtensions } from './x11/server/extensions.ts';

/*
 * A second, tiny process: it knows what Doorstep has pressed, and when Doorstep's pipe closes, for whatever reason,
 * kill -9 included, it lets go of all of it and gives borrowed keycodes back.
 */
export async function runWatchdog(display: string): Promise<void> {
  const x = await XConnection.open(display, () => undefined);
  const { xtest } = await findExtensions(x);
  const down = new Map<string, { type: number; number: number }>();
  x.onGone(() => process.exit(0));
  // Doorstep may have been killed before it heard this; then its pipe closes next.
  process.stdout.on('error', () => undefined);
  process.stdout.write('ready\n');
  // A Ctrl-C in a terminal reaches the whole group: the watchdog outlives it until the pipe closes.
  process.on('SIGINT', () => undefined);
  process.on('SIGTERM', () => undefined);
  for await (const line of createInterface({ input: process.stdin })) {
    const [what = '', number = '', state = ''] = line.split(' ');
    if (state === 'down') down.set(`${what} ${number}`, { type: what === 'key' ? 3 : 5, number: Number(number) });
    else down.delete(`${what} ${number}`);
  }
  // Where nothing can be pressed nothing is down.
  if (xtest) {
    for (const { type, number } of down.values()) xtest.FakeInput(type, number, 0, 0, 0, 0);
    await x.flush();
    await releaseWhatComesLate(x, xtest);
    await returnLentKeycodes(x);
  }
  x.close();
}
