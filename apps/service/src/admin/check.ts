import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { RECORDS_LEVEL } from '@porch/core';
import type { DataSource } from 'typeorm';
import type { Config } from '../config.ts';
import { databaseNowMs, terminalWaits } from '../db/data-source.ts';
import { makeRecords } from '../modules/records.ts';
import { TechnicianEntity } from '../modules/people/people-tables.ts';
import { readPolicy } from '../modules/policy/policy-records.ts';
import { stuckParcels } from '../modules/outbox/stuck-parcels.ts';
import { readLevel } from '../db/records-level.ts';

export interface Finding {
  readonly what: string;
  readonly isWell: boolean;
  /** What is so, or what to do. */
  readonly words: string;
}

/** Clocks further apart than this make ends and beginnings wrong for people. */
const MOST_CLOCK_MS = 2_000;

/** Looks at everything the service needs, one by one, and says what to do about what is missing. */
export async function check(config: Config): Promise<Finding[]> {
  const findings: Finding[] = [{ what: 'settings', isWell: true, words: 'read, none unknown' }];
  const say = (what: string, isWell: boolean, words: string) => findings.push({ what, isWell, words });
  const records = makeRecords(config.databaseUrl, () => undefined, terminalWaits);
  try {
    await records.initialize();
    await checkRecords(records, say);
  } catch (error) {
    const code = String((error as { code?: unknown }).code ?? (error as Error).name);
    say('database', false, `cannot be reached (${code}); look at PORCH_DATABASE_URL, and whether PostgreSQL runs`);
  } finally {
    if (records.isInitialized) await records.destroy();
  }
  const hasPages = config.webDir !== undefined && existsSync(join(config.webDir, 'console', 'index.html'));
  say('pages', hasPages, hasPages ? 'built' : 'PORCH_WEB_DIR names no folder with the built pages; run: npm run build');
  const address = config.publicUrl;
  say(
    'public address',
    address !== undefined,
    address ?? 'PORCH_PUBLIC_URL is not set: links lead to this machine alone',
  );
  const isSafe = address === undefined || address.startsWith('https:') || /\/\/(localhost|127\.|\[::1\])/.test(address);
  say('encryption', isSafe, isSafe ? 'as it should be' : 'PORCH_PUBLIC_URL must be https outside this machine');
  say(
    'mail',
    config.smtpUrl !== undefined,
    config.smtpUrl === undefined ? 'PORCH_SMTP_URL is not set: no invitation goes by mail' : 'set',
  );
  say(
    'ticket system',
    Boolean(config.ticketsUrl ?? config.ticketsMail),
    config.ticketsUrl ?? config.ticketsMail ?? 'none is set: sessions work without',
  );
  return findings;
}

async function checkRecords(
  records: DataSource,
  say: (what: string, isWell: boolean, words: string) => void,
): Promise<void> {
  const [version] = await records.query<{ server_version: string }[]>('SHOW server_version');
  say('database', true, `PostgreSQL ${version?.server_version ?? ''}`);
  const isDue = await records.showMigrations();
  say('tables', !isDue, isDue ? 'are of an older release; run: porch-admin migrate' : 'as this release wants them');
  const apartMs = Math.abs((await databaseNowMs(records.manager)) - Date.now());
  const isTogether = apartMs < MOST_CLOCK_MS;
  say(
    'clock',
    isTogether,
    isTogether ? 'the same as the database' : `${apartMs} ms from the database; keep both by NTP`,
  );
  if (isDue) return;
  const isFinished = (await readLevel(records)) >= RECORDS_LEVEL;
  say(
    'upgrade',
    isFinished,
    isFinished ? 'finished' : 'not finished; once no older program is needed, run: porch-admin upgrade finish',
  );
  const givenUp = (await stuckParcels(records)).filter(({ givenUpAtMs }) => givenUpAtMs !== undefined).length;
  say('parcels', !givenUp, givenUp ? `${givenUp} were given up; look: porch-admin parcel list` : 'none was given up');
  const { unread } = await readPolicy(records);
  say('policy', !unread.length, unread.length ? `not understood, so not used: ${unread.join('; ')}` : 'all understood');
  const people = await records.getRepository(TechnicianEntity).countBy({});
  say('technicians', people > 0, people ? `${people}` : 'there are none; run: porch-admin technician add');
}
