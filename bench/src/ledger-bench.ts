import { appendRow, SALT_BYTES, ZERO_HASH, type SessionEvent } from '@porch/core';
import type { RestClient } from '@porch/client';
import { splitEvent } from '@porch/wire';
import { randomBytes, randomUUID } from 'node:crypto';
import pg from 'pg';
import { BenchHouse, sleep } from './bench-house.ts';
import { quantile } from './numbers.ts';

const SHORT = 100;
const LONG = 10_000;
const REPEATS = 60;
/** Sessions of each length that nobody here has read yet. */
const COLD_SESSIONS = 12;
const ROWS_AT_ONCE = 2_000;
/** Between two commands of one participant, so that none is refused for coming too fast. */
const BREATH_MS = 60;

/** What a command on a long ledger costs, against one on a short ledger in the same run: known to the service, and not. */
export async function ledgerBench(options: { json?: boolean }): Promise<void> {
  const house = await BenchHouse.open();
  try {
    const rest = await house.signedIn();
    const colleagues = [rest, await house.signedIn('Rune Takahashi')];
    const hot = { short: [] as number[], long: [] as number[] };
    const [short, long] = [
      await startedWith(house, colleagues[0], SHORT),
      await startedWith(house, colleagues[1], LONG),
    ];
    const lines = [
      [hot.short, await house.technician(colleagues[0] ?? rest, short)],
      [hot.long, await house.technician(colleagues[1] ?? rest, long)],
    ] as const;
    for (let i = 0; i < REPEATS; i++)
      for (const [times, line] of lines) {
        const began = performance.now();
        await line.command({ type: 'sendChat', messageId: randomUUID(), text: `line ${i}` });
        times.push(performance.now() - began);
        await sleep(BREATH_MS);
      }
    for (const [, line] of lines) line.close();

    const coldIds = { short: [] as string[], long: [] as string[] };
    // One command takes them past a snapshot.
    for (let i = 0; i < COLD_SESSIONS; i++) {
      coldIds.short.push(await startedWith(house, rest, SHORT - 1));
      coldIds.long.push(await startedWith(house, rest, LONG - 1));
    }
    for (const id of [...coldIds.short, ...coldIds.long]) await rest.newCode(id);
    await house.restartService();
    const again = await house.signedIn();
    const cold = { short: [] as number[], long: [] as number[] };
    for (let i = 0; i < COLD_SESSIONS; i++)
      for (const kind of ['short', 'long'] as const) {
        const began = performance.now();
        await again.newCode(coldIds[kind][i] ?? '');
        cold[kind].push(performance.now() - began);
      }
    const ratio = (times: { short: number[]; long: number[] }) => {
      const [a, b] = [quantile(times.short, 0.5) ?? NaN, quantile(times.long, 0.5) ?? NaN];
      return { shortMs: a, longMs: b, ratio: b / a };
    };
    const result = { entries: [SHORT, LONG], known: ratio(hot), notKnown: ratio(cold) };
    if (options.json) process.stdout.write(`${JSON.stringify(result, undefined, 2)}\n`);
    else
      for (const [what, { shortMs, longMs, ratio: r }] of [
        ['a session that is known', result.known],
        ['one that is not', result.notKnown],
      ] as const)
        process.stdout.write(
          `${what.padEnd(26)}${shortMs.toFixed(1).padStart(7)} ms with ${SHORT} entries, ${longMs.toFixed(1).padStart(7)} ms with ${LONG}: ${r.toFixed(2)}\n`,
        );
  } finally {
    await house.close();
  }
}

/** A session with so many entries, chat for the most part, written as the service would have. */
async function startedWith(house: BenchHouse, rest: RestClient | undefined, entries: number): Promise<string> {
  if (!rest) throw new Error('nobody is signed in');
  const { session } = await rest.start({});
  // Otherwise the next start would be this one again.
  await rest.withdrawCode(session.id);
  const client = new pg.Client({ connectionString: house.databaseUrl });
  await client.connect();
  try {
    const { rows } = await client.query<{ seq: number; head: Buffer }>(
      `SELECT "seq", "head" FROM "session" WHERE "id" = $1`,
      [session.id],
    );
    let { seq, hash } = { seq: rows[0]?.seq ?? 0, hash: (rows[0]?.head ?? ZERO_HASH) as Uint8Array };
    const by = `technician:${session.technicianId}`;
    while (seq < entries) {
      const made = [];
      for (let i = 0; i < ROWS_AT_ONCE && seq < entries; i++) {
        const event: SessionEvent = {
          type: 'chatSent',
          by,
          messageId: randomUUID(),
          personal: { text: `line ${seq}` },
        };
        const { header, body } = splitEvent(event, ++seq, Date.now(), session.id);
        const row = appendRow(hash, seq, header, body, randomBytes(SALT_BYTES));
        hash = row.hash;
        made.push(row);
      }
      const hex = (bytes: Uint8Array | undefined) => (bytes ? Buffer.from(bytes).toString('hex') : '');
      await client.query(
        `INSERT INTO "ledger_row" ("session_id", "chain", "seq", "header", "salt", "body", "body_hash", "hash")
         SELECT $1, 'session', s, decode(h, 'hex'), decode(a, 'hex'), decode(b, 'hex'), decode(d, 'hex'), decode(e, 'hex')
           FROM unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[]) r(s, h, a, b, d, e)`,
        [
          session.id,
          made.map((r) => r.seq),
          made.map((r) => hex(r.header)),
          made.map((r) => hex(r.salt)),
          made.map((r) => hex(r.body)),
          made.map((r) => hex(r.bodyHash)),
          made.map((r) => hex(r.hash)),
        ],
      );
    }
    await client.query(`UPDATE "session" SET "seq" = $2, "head" = $3, "projected_seq" = $2 WHERE "id" = $1`, [
      session.id,
      seq,
      Buffer.from(hash),
    ]);
    return session.id;
  } finally {
    await client.end();
  }
}
