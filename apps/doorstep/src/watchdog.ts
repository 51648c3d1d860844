import { createInterface } from 'node:readline';
import { endRun } from './runs/end-run.ts';
import { releaseWhatComesLate, returnLentKeycodes } from './x11/hands/left-behind.ts';
import { XConnection } from './x11/server/connection.ts';
import { findExtensions } from './x11/server/extensions.ts';

/*
 * A second, tiny process: it knows what Doorstep has pressed, and when Doorstep's pipe closes, for whatever reason,
 * kill -9 included, it lets go of all of it and gives borrowed keycodes back. What ran for the desk ends as well.
 */
export async function runWatchdog(display: string): Promise<void> {
  const x = await XConnection.open(display, () => undefined);
  const { xtest } = await findExtensions(x);
  const down = new Map<string, { type: number; number: number }>();
  const runs = new Set<string>();
  // With its display Doorstep goes, too; only what runs would outlive both.
  let isGone = false;
  x.onGone(() => {
    isGone = true;
    if (!runs.size) process.exit(0);
  });
  // Doorstep may have been killed before it heard this; then its pipe closes next.
  process.stdout.on('error', () => undefined);
  process.stdout.write('ready\n');
  // A Ctrl-C in a terminal reaches the whole group: the watchdog outlives it until the pipe closes.
  process.on('SIGINT', () => undefined);
  process.on('SIGTERM', () => undefined);
  for await (const line of createInterface({ input: process.stdin })) {
    const [what = '', number = '', state = ''] = line.split(' ');
    if (what === 'run') {
      if (state === 'down') runs.add(number);
      else runs.delete(number);
    } else if (state === 'down')
      down.set(`${what} ${number}`, { type: what === 'key' ? 3 : 5, number: Number(number) });
    else down.delete(`${what} ${number}`);
  }
  const ending = Promise.allSettled([...runs].map((run) => endRun(run)));
  // Where nothing can be pressed nothing is down.
  if (xtest && !isGone) {
    for (const { type, number } of down.values()) xtest.FakeInput(type, number, 0, 0, 0, 0);
    await x.flush();
    await releaseWhatComesLate(x, xtest);
    await returnLentKeycodes(x);
  }
  x.close();
  await ending;
}
