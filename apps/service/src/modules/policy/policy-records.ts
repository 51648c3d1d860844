import { PolicyBook, readSettingValue, isSettingName, Topic, type SettingVersion } from '@porch/core';
import type { DataSource, EntityManager } from 'typeorm';
import { inTransaction } from '../../db/data-source.ts';
import { PolicyRefused } from './policy-refused.ts';
import {
  SettingEntity,
  TeamEntity,
  TopicEntity,
  type SettingRow,
  type TeamRow,
  type TopicRow,
} from './policy-tables.ts';

/** Whoever changes anything of the policy holds this until it is done, so that what is checked is what is written. */
const POLICY_LOCK = 7_410_207;

/** Everything that was set, as it is written. */
export interface PolicyRecords {
  readonly book: PolicyBook;
  readonly versions: readonly SettingVersion[];
  readonly topics: readonly Topic[];
  readonly teams: readonly string[];
  /** What this release cannot make anything of, and why; it counts as never set. */
  readonly unread: readonly string[];
}

/** The rows as they are written. */
export interface PolicyRows {
  readonly settings: readonly SettingRow[];
  readonly topics: readonly TopicRow[];
  readonly teams: readonly TeamRow[];
}

export async function readRows(records: DataSource | EntityManager): Promise<PolicyRows> {
  // One after the other: within a transaction there is one connection.
  return {
    settings: await records.getRepository(SettingEntity).find({ order: { name: 'ASC', team: 'ASC', version: 'ASC' } }),
    topics: await records.getRepository(TopicEntity).find({ order: { place: 'ASC', topic: 'ASC' } }),
    teams: await records.getRepository(TeamEntity).find({ order: { name: 'ASC' } }),
  };
}

export function policyIn(rows: PolicyRows): PolicyRecords {
  const versions = rows.settings.map(versionOf);
  const read = rows.topics.map(({ topic, words, team, skills }) =>
    Topic.safeParse({ topic, words, skills, ...(team === null ? {} : { team }) }),
  );
  const topics = read.flatMap(({ data }) => data ?? []);
  return {
    book: new PolicyBook(versions, topics),
    versions,
    topics,
    teams: rows.teams.map(({ name }) => name),
    unread: [
      ...versions.flatMap((one) => whyUnread(one) ?? []),
      ...read.flatMap(({ error }, i) => (error ? [`topic ${rows.topics[i]?.topic ?? ''}: ${error.message}`] : [])),
    ],
  };
}

export const readPolicy = async (records: DataSource | EntityManager): Promise<PolicyRecords> =>
  policyIn(await readRows(records));

const versionOf = ({ name, team, version, since, value }: SettingRow): SettingVersion => ({
  name,
  team: team || undefined,
  version,
  sinceMs: since.getTime(),
  value: value ?? undefined,
});

function whyUnread({ name, version, value }: SettingVersion): string | undefined {
  if (!isSettingName(name)) return `${name}: this release knows no such setting`;
  const read = value === undefined ? { value } : readSettingValue(name, value);
  return 'wrong' in read ? `${name}, version ${version}: ${read.wrong}` : undefined;
}

/** One change of the policy at a time, whole or not at all. `change` is given the policy as it is, and the time. */
export const changePolicy = <T>(
  records: DataSource,
  change: (tx: EntityManager, before: PolicyRecords, nowMs: number) => Promise<T>,
): Promise<T> =>
  inTransaction(records, async (tx) => {
    await tx.query('SELECT pg_advisory_xact_lock($1)', [POLICY_LOCK]);
    const [{ now }] = await tx.query<[{ now: Date }]>('SELECT clock_timestamp() AS now');
    return change(tx, await readPolicy(tx), now.getTime());
  });

/** Throws PolicyRefused when there is no such team. */
export function mustBeTeam(team: string, { teams }: Pick<PolicyRecords, 'teams'>): void {
  if (!teams.includes(team))
    throw new PolicyRefused(
      `there is no team “${team}”; there are: ${teams.join(', ')}. A new one: porch-admin team add “${team}”`,
    );
}
