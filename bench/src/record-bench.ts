import { fetchExchange, RestClient } from '@porch/client';
import { emailOf, PASSWORD } from '@porch/demo';
import type { SessionSearch } from '@porch/wire';
import { BenchHouse } from './bench-house.ts';
import { makeRecord } from './made-record.ts';
import { quantile } from './numbers.ts';

const REPEATS = 7;
/** Nobody waits longer for a list. */
const WANTED_MS = 100;

const questions: Readonly<Record<string, Partial<SessionSearch>>> = {
  newest: {},
  'an outcome': { outcome: 'escalated' },
  'under way': { phase: 'live' },
  'a rare permission': { permission: 'take-screenshot' },
  'a usual permission': { permission: 'control-input' },
  'with files': { files: 'any' },
  'a ticket': { ticket: 'MF-250001' },
  'the end of a ticket, typed': { words: '250001' },
  'a colleague': { technician: 't17' },
  'a month': { from: monthsAgo(14), to: monthsAgo(13) },
  'a usual word': { words: 'printer' },
  'a rare word': { words: 'kdpkkak' },
  'a letter': { words: 'p' },
  'the first two letters of words': { words: 'ab' },
  'the first four letters of words': { words: 'prin' },
  'three words': { words: 'printer customer ab' },
  'a word that is not there': { words: 'xylophone' },
  'a usual word and a rare outcome': { words: 'printer', outcome: 'escalated' },
  'a usual word and a rare permission': { words: 'something', permission: 'take-screenshot' },
  'a colleague, an outcome, a word': { technician: 't17', outcome: 'escalated', words: 'printer' },
  'files and an outcome that never has any': { files: 'any', phase: 'live' },
};

function monthsAgo(months: number): string {
  const at = new Date();
  at.setUTCMonth(at.getUTCMonth() - months);
  return at.toISOString();
}

/** Lists and search over a large made record, for a technician, a team's lead and the desk's lead. */
export async function recordBench(options: { sessions: string; json?: boolean }): Promise<void> {
  const sessions = Number(options.sessions);
  const house = await BenchHouse.open();
  try {
    await makeRecord(house.databaseUrl, sessions, emailOf('Pim Aldersey'));
    const signedIn = async (email: string) => {
      const rest = new RestClient(fetchExchange(house.url));
      rest.token = (await rest.signIn(email, PASSWORD, 'token')).token;
      return rest;
    };
    const askers = {
      technician: await signedIn('t17@marrowick.example'),
      'team lead': await signedIn('t1@marrowick.example'),
      'desk lead': await signedIn(emailOf('Odalys Brandt')),
    };
    const yardstickMs = await timed(() => askers['desk lead'].me());
    const rows = [];
    for (const [question, search] of Object.entries(questions))
      for (const [asker, rest] of Object.entries(askers)) {
        let found = 0;
        const ms = await timed(async () => void (found = (await rest.findSessions(search)).items.length));
        rows.push({ question, asker, ms, found, againstMe: ms / yardstickMs });
      }
    let [deep, cursor] = [0, undefined as string | undefined];
    const deepMs: number[] = [];
    // Page after page: the last costs what the first did.
    for (; deep < 40; deep++) {
      const began = performance.now();
      const page = await askers['desk lead'].findSessions({ limit: 200, ...(cursor ? { cursor } : {}) });
      deepMs.push(performance.now() - began);
      cursor = page.next;
    }
    const worst = rows.reduce((a, b) => (a.ms > b.ms ? a : b));
    const result = {
      sessions,
      yardstickMs,
      rows,
      worst,
      pages: { firstMs: deepMs[0], lastMs: deepMs.at(-1) },
      wantedMs: WANTED_MS,
    };
    if (options.json) process.stdout.write(`${JSON.stringify(result, undefined, 2)}\n`);
    else {
      process.stdout.write(`${sessions} sessions; who I am: ${yardstickMs.toFixed(1)} ms\n`);
      for (const r of rows)
        process.stdout.write(
          `${r.ms > WANTED_MS ? '✗' : ' '} ${r.question.padEnd(42)}${r.asker.padEnd(12)}${r.ms.toFixed(1).padStart(8)} ms ${String(r.found).padStart(5)} found\n`,
        );
      process.stdout.write(
        `page 1: ${(deepMs[0] ?? 0).toFixed(1)} ms, page ${deep}: ${(deepMs.at(-1) ?? 0).toFixed(1)} ms\n`,
      );
    }
  } finally {
    await house.close();
  }
}

async function timed(ask: () => Promise<unknown>): Promise<number> {
  await ask();
  const times: number[] = [];
  for (let i = 0; i < REPEATS; i++) {
    const began = performance.now();
    await ask();
    times.push(performance.now() - began);
  }
  return quantile(times, 0.5) ?? NaN;
}
