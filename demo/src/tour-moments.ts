import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { inSeconds } from './stopwatch.ts';
import type { Stage } from './stage.ts';
import type { TourKit } from './tour-hands-and-eyes.ts';

type BridgeKit = Pick<TourKit, 'porch' | 'quietly' | 'step' | 'expect' | 'until' | 'homes'> & {
  readonly samir: Stage['customers'][number];
};
const Status = z.object({ isDoorstepThere: z.boolean() });
const Started = z.object({ code: z.object({ digits: z.string() }) });
const seconds = (sinceMs: number): string => inSeconds(performance.now() - sinceMs);
const MOST_TO_PICTURE_MS = 60_000;
const MOST_TO_END_MS = 1_000;
const LARGE_BYTES = 240_000_000;

/** From opening a session to a readable picture, with a customer on the telephone who mistypes one digit. Resolves with Samir at his desktop. */
export async function stopwatch({ porch, quietly, until, expect, samir, homes }: BridgeKit): Promise<void> {
  const begunAt = performance.now();
  const { code } = Started.parse(JSON.parse(await porch(['start', '--json'])));
  const wrong = `${(Number(code.digits[0]) + 1) % 10}${code.digits.slice(1)}`;
  const answer = await samir.join({ code: wrong }).then(
    () => 'came in',
    () => 'is told that this is no code',
  );
  expect(answer !== 'came in', `with one digit wrong he ${answer}`);
  await samir.join({ code: code.digits });
  await until(
    'Doorstep runs at his desktop',
    async () => Status.parse(JSON.parse(await quietly(['status', '--json']))).isDoorstepThere,
  );
  await porch(['ask', 'see']);
  await porch(['picture', '-o', join(homes, 'bridge.png')]);
  const took = seconds(begunAt);
  expect(performance.now() - begunAt <= MOST_TO_PICTURE_MS, `from the start to his picture: ${took} (60 s at most)`);
}

/** A script, a command line with something that hides, and a file on its way: all of it dead by one press, as his computer itself says. */
export async function stopEndsEverything({ porch, step, until, expect, samir, homes }: BridgeKit): Promise<void> {
  const { computer } = samir.desktop;
  if (!computer) return;
  step('Stop, while a script, a command line and a file are under way: his computer itself says when all is dead');
  for (const what of ['runbook', 'command-line', 'give']) await porch(['ask', what]);
  const large = join(homes, 'charts.bin');
  writeFileSync(large, Buffer.alloc(LARGE_BYTES, 7));
  // None of them ends well: that is what the press is for.
  const broken = [
    porch(['run-action', 'watch-print-queues'], 1),
    porch(['shell'], 1, 'trap "" HUP TERM; (setsid sh -c "while :; do sleep 987; done" &)\nsleep 988\n'),
    porch(['give', large], 1),
  ].map((one) => one.catch((error: unknown) => String(error)));
  const count = async (what: string) => Number(await computer.read('sh', '-c', `${what} | wc -l`));
  const alive = () => count('grep -lzs ^DOORSTEP_RUN= /proc/[0-9]*/environ');
  const arriving = () => count('find /home/samir -size +1M -name "*.porch-piece"');
  await until('all of it is under way', async () => (await alive()) >= 5 && (await arriving()) > 0);
  const pressedAt = performance.now();
  await samir.stop();
  while ((await alive()) + (await arriving()) > 0 && performance.now() - pressedAt < 10_000);
  expect(
    performance.now() - pressedAt <= MOST_TO_END_MS,
    `all of it is dead ${seconds(pressedAt)} after the press (1 s at most)`,
  );
  await Promise.all(broken);
}
