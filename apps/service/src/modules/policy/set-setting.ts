import { settings } from '@porch/words/settings';
import {
  contradictionsIn,
  isSettingName,
  readSettingText,
  settingNames,
  settingOf,
  type Contradiction,
  type PolicyBook,
  type SettingName,
  type Surroundings,
} from '@porch/core';
import { isDeepStrictEqual } from 'node:util';
import type { DataSource, EntityManager } from 'typeorm';
import { changePolicy, mustBeTeam, type PolicyRecords } from './policy-records.ts';
import { PolicyRefused } from './policy-refused.ts';
import { SettingEntity } from './policy-tables.ts';

export interface Wish {
  readonly name: string;
  readonly team?: string | undefined;
  /** As somebody typed it; undefined: given back to what counts without it. */
  readonly typed: string | undefined;
  readonly by: string;
  /** The version that whoever wishes it has seen; another one since then is a conflict. */
  readonly seen?: number | undefined;
  readonly hasDirectory: boolean;
}
export interface SetSetting {
  readonly name: SettingName;
  readonly team: string | undefined;
  readonly version: number;
  readonly before: unknown;
  readonly value: unknown;
  /** False: it was so already, and nothing was written. */
  readonly isChanged: boolean;
}

/** Sets one setting, of the desk or of a team. Throws PolicyRefused with what is wrong and what to do. */
export const setSetting = (records: DataSource, wish: Wish): Promise<SetSetting> =>
  changePolicy(records, (tx, before, nowMs) => setWithin(tx, before, nowMs, wish));

async function setWithin(
  tx: EntityManager,
  before: PolicyRecords,
  nowMs: number,
  { name, team, typed, by, seen, hasDirectory }: Wish,
): Promise<SetSetting> {
  const known = mustBeSetting(name);
  const { isTeams = false } = settingOf(known);
  if (team !== undefined) {
    mustBeTeam(team, before);
    if (!isTeams) throw new PolicyRefused(`${name} is the same for the whole desk: no team has its own`);
  }
  const value = typed === undefined ? undefined : readTyped(known, typed);
  const was = before.book.now(known, team, nowMs);
  const last = lastVersion(before, known, team);
  if (seen !== undefined && seen !== last) throw new PolicyRefused(await whoWasFirst(tx, known, team, last));
  const isOwn = was.from === (team === undefined ? 'desk' : 'team');
  const isSame = value === undefined ? !isOwn : isOwn && isDeepStrictEqual(value, was.value);
  if (isSame) return { name: known, team, version: last, before: was.value, value: was.value, isChanged: false };

  const version = last + 1;
  const after = before.book.with({ name: known, team, version, sinceMs: nowMs, value });
  const around = { teams: before.teams, hasDirectory };
  const old = new Set(everyContradiction(before.book, around, nowMs).map(({ words }) => words));
  const fresh = everyContradiction(after, around, nowMs).find(({ words }) => !old.has(words));
  if (fresh)
    throw new PolicyRefused(
      `${fresh.settings.join(' and ')}: ${fresh.words(settings.en)}. Nothing was changed; ${fresh.settings.length > 1 ? 'change the other one first' : 'say another value'}`,
    );
  await tx.getRepository(SettingEntity).insert({
    name: known,
    team: team ?? '',
    version,
    since: new Date(nowMs),
    setBy: by,
    value: value === undefined ? () => 'NULL' : value,
  } as never);
  return { name: known, team, version, before: was.value, value: after.now(known, team, nowMs).value, isChanged: true };
}

/** Throws PolicyRefused, with those that are nearly called so. */
export function mustBeSetting(name: string): SettingName {
  if (isSettingName(name)) return name;
  const alike = settingNames.filter((one) => one.split('-').some((part) => name.includes(part)));
  throw new PolicyRefused(
    `there is no setting “${name}”; ${alike.length ? `do you mean ${alike.join(' or ')}?` : 'porch-admin setting list shows them all'}`,
  );
}

function readTyped(name: SettingName, typed: string): unknown {
  try {
    return readSettingText(name, typed);
  } catch (error) {
    const { unit } = settingOf(name);
    const { help } = settings.en.all[name];
    throw new PolicyRefused(`${name}${unit ? ` (${unit})` : ''}: ${(error as Error).message}. ${help}`);
  }
}

const lastVersion = ({ versions }: PolicyRecords, name: SettingName, team: string | undefined): number =>
  Math.max(0, ...versions.filter((one) => one.name === name && one.team === team).map(({ version }) => version));

async function whoWasFirst(
  tx: EntityManager,
  name: SettingName,
  team: string | undefined,
  version: number,
): Promise<string> {
  const row = await tx.getRepository(SettingEntity).findOneBy({ name, team: team ?? '', version });
  if (!row) return `${name} was never set here: leave --seen out, or say 0`;
  const value = row.value === null ? 'given back' : `set to ${settingOf(name).kind.toText(row.value)}`;
  return `${name} was ${value} by ${row.setBy} at ${row.since.toISOString()}: that is version ${version}. Look at it, and say it again if you still mean it`;
}

/** For the desk and for every team. */
function everyContradiction(book: PolicyBook, around: Surroundings, nowMs: number): Contradiction[] {
  return [undefined, ...around.teams].flatMap((team) =>
    contradictionsIn(book.policyFor(team, nowMs), around).map(({ words, ...wrong }) => ({
      ...wrong,
      words: (said) => (team === undefined ? words(said) : said.wrong.inTeam({ what: words(said), team })),
    })),
  );
}
