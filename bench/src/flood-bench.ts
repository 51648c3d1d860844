import type { LiveConnection } from '@porch/client';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { BenchHouse, dist, processorMs, sleep } from './bench-house.ts';
import { quantile } from './numbers.ts';

const STRANGERS = 500;
const PAIRS = 2;
const SAY_EVERY_MS = 50;
/** What strangers may cost everybody else, at most. */
const ALLOWED_MS = 100;

interface Pair {
  readonly technician: LiveConnection;
  readonly customer: LiveConnection;
}

/** Milliseconds from a word being said on one side to its standing on the other, for a while. */
async function delays(pairs: readonly Pair[], forMs: number): Promise<number[]> {
  const all: Promise<number>[] = [];
  for (const untilMs = performance.now() + forMs; performance.now() < untilMs; await sleep(SAY_EVERY_MS))
    for (const { technician, customer } of pairs)
      all.push(
        new Promise((resolve, reject) => {
          const messageId = randomUUID();
          const saidAtMs = performance.now();
          const off = customer.on('entry', ({ event }) => {
            if (event.type !== 'chatSent' || event.messageId !== messageId) return;
            off();
            resolve(performance.now() - saidAtMs);
          });
          technician.command({ type: 'sendChat', messageId, text: 'Is anybody there?' }).catch(reject);
        }),
      );
  return Promise.all(all);
}

/** What 500 hostile connections cost those who are in, and somebody who comes in meanwhile. */
export async function floodBench(options: { seconds: string; json?: boolean }): Promise<void> {
  const forMs = Number(options.seconds) * 1000;
  const house = await BenchHouse.open();
  try {
    const rest = await house.signedIn();
    const pairs: Pair[] = [];
    for (let i = 0; i < PAIRS; i++) {
      const { session, link } = await rest.start({ sessionId: randomUUID() });
      pairs.push({ technician: await house.technician(rest, session.id), customer: await house.bareDoorstep(link) });
    }
    const comeIn = async () => {
      const startedAtMs = performance.now();
      const { session } = await rest.start({ sessionId: randomUUID() });
      (await house.technician(rest, session.id)).close();
      return performance.now() - startedAtMs;
    };
    const quietInMs = await comeIn();
    await delays(pairs, 1_000);
    const quiet = await delays(pairs, forMs);
    const hostile = house.processes.start(
      'strangers',
      process.execPath,
      [join(dist, 'bench.mjs'), 'flooders', house.url, String(STRANGERS)],
      { stdio: ['ignore', 'pipe', 'inherit'] },
    );
    await new Promise((resolve) => hostile.stdout?.once('data', resolve));
    await sleep(2_000);
    const startedAt = { ms: performance.now(), processorMs: processorMs(house.servicePid) };
    const flooded = await delays(pairs, forMs);
    const inMs = await comeIn();
    const percent = Math.round(
      (100 * (processorMs(house.servicePid) - startedAt.processorMs)) / (performance.now() - startedAt.ms),
    );
    const p95 = { quiet: quantile(quiet, 0.95) ?? 0, flooded: quantile(flooded, 0.95) ?? 0 };
    const result = {
      strangers: STRANGERS,
      words: flooded.length,
      quietP50Ms: quantile(quiet, 0.5),
      quietP95Ms: p95.quiet,
      floodedP50Ms: quantile(flooded, 0.5),
      floodedP95Ms: p95.flooded,
      addedP95Ms: p95.flooded - p95.quiet,
      isWithin: p95.flooded - p95.quiet <= ALLOWED_MS,
      quietInMs,
      inMs,
      servicePercent: percent,
    };
    if (options.json) process.stdout.write(`${JSON.stringify(result)}\n`);
    else
      process.stdout.write(
        `A word to the other side, p95: ${p95.quiet.toFixed(1)} ms when quiet, ${p95.flooded.toFixed(1)} ms beside ${STRANGERS} hostile connections\n` +
          `Added: ${result.addedP95Ms.toFixed(1)} ms of ${ALLOWED_MS} allowed\n` +
          `A new technician is in after ${quietInMs.toFixed(0)} ms when quiet, ${inMs.toFixed(0)} ms beside them\n` +
          `The service uses ${percent} % of one core\n`,
      );
  } finally {
    await house.close();
  }
}
