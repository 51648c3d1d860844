import { createInterface } from 'node:readline';
import { printerOfWord, takeOutOfTheList } from './prints/out-of-the-list.ts';
import { PrintSystem } from './prints/print-system.ts';
import { endRun } from './runs/end-run.ts';
import { releaseWhatComesLate, returnLentKeycodes } from './x11/hands/left-behind.ts';
import { XConnection } from './x11/server/connection.ts';
import { findExtensions } from './x11/server/extensions.ts';

/*
 * A second, tiny process: it knows what Doorstep has pressed, and when Doorstep's pipe closes, for whatever reason,
 * kill -9 included, it lets go of all of it and gives borrowed keycodes back. What ran for the desk ends as well,
 * and printers of a session go from the list.
 */
export async function runWatchdog(display: string): Promise<void> {
  const x = await XConnection.open(display, () => undefined);
  const { xtest } = await findExtensions(x);
  const down = new Map<string, { type: number; number: number }>();
  /** What ends with Doorstep and not with its display. */
  const left = { run: new Set<string>(), printer: new Set<string>() };
  // With its display Doorstep goes, too; only these would outlive both.
  let isGone = false;
  x.onGone(() => {
    isGone = true;
    if (!left.run.size && !left.printer.size) process.exit(0);
  });
  // Doorstep may have been killed before it heard this; then its pipe closes next.
  process.stdout.on('error', () => undefined);
  process.stdout.write('ready\n');
  // A Ctrl-C in a terminal reaches the whole group: the watchdog outlives it until the pipe closes.
  process.on('SIGINT', () => undefined);
  process.on('SIGTERM', () => undefined);
  for await (const line of createInterface({ input: process.stdin })) {
    const [what = '', number = '', state = ''] = line.split(' ');
    if (what === 'run' || what === 'printer') {
      if (state === 'down') left[what].add(number);
      else left[what].delete(number);
    } else if (state === 'down')
      down.set(`${what} ${number}`, { type: what === 'key' ? 3 : 5, number: Number(number) });
    else down.delete(`${what} ${number}`);
  }
  const ending = Promise.allSettled([
    ...[...left.run].map((run) => endRun(run)),
    ...[...left.printer].map((word) => takeOutOfTheList(new PrintSystem(), printerOfWord(word), true)),
  ]);
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
