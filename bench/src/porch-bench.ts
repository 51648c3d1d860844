import { fetchExchange, RestClient } from '@porch/client';
import { emailOf } from '@porch/demo';
import { createHash, randomBytes } from 'node:crypto';
import { get, type ClientRequest } from 'node:http';
import pg from 'pg';
import { BenchHouse, processorMs, sleep, until } from './bench-house.ts';
import { makeRecord, TECHNICIANS } from './made-record.ts';
import { quantile } from './numbers.ts';

const WAITING = 20;
const EVENTS_PER_SECOND = 20;

/** One console that reads the porch: which words it has heard, and when. */
class Reader {
  readonly heard = new Map<string, number>();
  bytes = 0;
  #tail = '';
  readonly #request: ClientRequest;

  constructor(url: string, token: string) {
    this.#request = get(`${url}/api/v1/porch/changes`, { headers: { authorization: `Bearer ${token}` } }, (answer) => {
      answer.setEncoding('utf8');
      answer.on('data', (text: string) => {
        this.bytes += text.length;
        const whole = this.#tail + text;
        for (const [word] of whole.matchAll(/beat-\d+-/g))
          if (!this.heard.has(word)) this.heard.set(word, performance.now());
        this.#tail = whole.slice(-16);
      });
    });
    this.#request.on('error', () => undefined); // Cut at the end of the bench.
  }

  close(): void {
    this.#request.destroy();
  }
}

/** What it costs the service to tell 300 technicians of 20 events a second, and when the last one hears of each. */
export async function porchBench(options: { seconds: string; readers: string; json?: boolean }): Promise<void> {
  const [seconds, count] = [Number(options.seconds), Number(options.readers)];
  const house = await BenchHouse.open();
  try {
    await makeRecord(house.databaseUrl, 5_000, emailOf('Pim Aldersey'));
    const readers: Reader[] = [];
    // Until they are known.
    await sleep(3_000);
    for (const token of (await signedIn(house.databaseUrl)).slice(0, count)) readers.push(new Reader(house.url, token));
    const door = new RestClient(fetchExchange(house.url));
    const tokens = await waitingCustomers(door);
    await sleep(3_000);
    const own = process.cpuUsage();
    const idle = processorMs(house.servicePid);
    await sleep(seconds * 1000);
    const idleMs = processorMs(house.servicePid) - idle;

    const bytesBefore = readers.reduce((sum, r) => sum + r.bytes, 0);
    const began = processorMs(house.servicePid);
    const said = new Map<string, number>();
    const telling: Promise<unknown>[] = [];
    const startedMs = performance.now();
    for (let i = 0; i < seconds * EVENTS_PER_SECOND; i++) {
      const word = `beat-${i}-`;
      said.set(word, performance.now());
      telling.push(door.sayInQueue(tokens[i % WAITING] ?? '', word));
      await sleep(Math.max(0, startedMs + ((i + 1) * 1000) / EVENTS_PER_SECOND - performance.now()));
    }
    await Promise.all(telling);
    const busyMs = processorMs(house.servicePid) - began;
    const { user, system } = process.cpuUsage(own);
    await until('the last word', () => readers.every((r) => r.heard.size >= said.size), 60_000);
    const lastMs = [...said].map(([word, atMs]) => Math.max(...readers.map((r) => r.heard.get(word) ?? NaN)) - atMs);
    const result = {
      readers: readers.length,
      percentOfCore: (busyMs - idleMs) / seconds / 10,
      toTheLastMs: { median: quantile(lastMs, 0.5), p95: quantile(lastMs, 0.95) },
      bytesEachSecond: (readers.reduce((sum, r) => sum + r.bytes, 0) - bytesBefore) / readers.length / seconds,
      loadPercent: (user + system) / (2 * seconds) / 10_000,
    };
    process.stdout.write(
      options.json
        ? `${JSON.stringify(result, undefined, 2)}\n`
        : `${result.readers} technicians, ${EVENTS_PER_SECOND} events a second: ${result.percentOfCore.toFixed(0)} % of a core, the last hears after ${result.toTheLastMs.median?.toFixed(0)} ms (p95 ${result.toTheLastMs.p95?.toFixed(0)} ms), ${(result.bytesEachSecond / 1024).toFixed(1)} kB a second each; this program: ${result.loadPercent.toFixed(0)} %\n`,
    );
    for (const reader of readers) reader.close();
  } finally {
    await house.close();
  }
}

/** Those who wait, each with what they say in the queue by. */
async function waitingCustomers(door: RestClient): Promise<string[]> {
  const tokens: string[] = [];
  for (let n = 0; n < WAITING; n++) {
    const name = `Customer ${n}`;
    const about = { topic: 'Printing', language: 'en', description: 'Nothing prints', wants: 'screen' } as const;
    tokens.push((await door.request({ name, address: '', ...about })).token ?? '');
  }
  return tokens;
}

/** Everybody's sign-in, written down as the service would: so many at once from one address it would not let in. */
async function signedIn(databaseUrl: string): Promise<string[]> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    const tokens: string[] = [];
    for (let n = 1; n <= TECHNICIANS; n++) {
      const token = randomBytes(32).toString('base64url');
      await client.query(
        `INSERT INTO "sign_in" ("token_hash", "id", "begun_at", "address", "program", "technician_id", "expires_at") VALUES ($1, gen_random_uuid(), now(), '', 'bench', $2, now() + interval '1 hour')`,
        [createHash('sha256').update(token).digest(), `t${n}`],
      );
      tokens.push(token);
    }
    return tokens;
  } finally {
    await client.end();
  }
}
