import { firstTopics, readTopics, type Topic } from '../queue/topic.ts';
import { policyFrom, type Policy } from './policy.ts';
import {
  isSettingName,
  readSettingValue,
  settingNames,
  settingOf,
  settings,
  type SettingName,
  type SettingValues,
} from './settings.ts';

/** One value that a setting was given, from a moment on; none: as if it had never been set there. */
export interface SettingVersion {
  readonly name: string;
  /** Undefined: the whole desk's. */
  readonly team: string | undefined;
  /** 1, 2, …; the highest of those that count already is the one that counts. */
  readonly version: number;
  readonly sinceMs: number;
  /** As it is kept; undefined: given back. */
  readonly value: unknown;
}

/** The rules as they are for a team, or for the desk, at a moment; now unless said otherwise. */
export type PolicyFor = (team?: string, atMs?: number) => Policy;

/** Where a value that counts comes from. */
export interface SettingNow {
  readonly value: unknown;
  readonly from: 'product' | 'desk' | 'team';
  /** 0: it comes with the product. */
  readonly version: number;
}

interface Made {
  readonly policy: Policy;
  readonly fromMs: number;
  readonly untilMs: number;
}

/** Every value that was ever set, and the rules that they come to. What cannot be read counts as never set. */
export class PolicyBook {
  readonly #versions = new Map<string, SettingVersion[]>();
  readonly #moments: number[];
  readonly #topics: readonly Topic[];
  readonly #made = new Map<string, Made>();
  readonly #written: readonly SettingVersion[];

  /** A desk without topics has those that the product comes with. */
  constructor(versions: readonly SettingVersion[], topics: readonly Topic[] = []) {
    this.#written = versions;
    this.#topics = topics.length ? topics : readTopics(firstTopics);
    for (const one of versions) {
      if (!isSettingName(one.name) || (one.value !== undefined && 'wrong' in readSettingValue(one.name, one.value)))
        continue;
      const key = keyOf(one.name, one.team);
      this.#versions.set(key, [...(this.#versions.get(key) ?? []), one]);
    }
    for (const list of this.#versions.values()) list.sort((a, b) => b.version - a.version);
    this.#moments = [...new Set(versions.map(({ sinceMs }) => sinceMs))].sort((a, b) => a - b);
  }

  /** The same with more. */
  with(...more: readonly SettingVersion[]): PolicyBook {
    return new PolicyBook([...this.#written, ...more], this.#topics);
  }

  policyFor(team: string | undefined, atMs: number): Policy {
    const key = team ?? '';
    const made = this.#made.get(key);
    if (made && atMs >= made.fromMs && atMs < made.untilMs) return made.policy;
    const policy = policyFrom(this.valuesFor(team, atMs), this.#topics);
    this.#made.set(key, {
      policy,
      fromMs: this.#moments.findLast((ms) => ms <= atMs) ?? -Infinity,
      untilMs: this.#moments.find((ms) => ms > atMs) ?? Infinity,
    });
    return policy;
  }

  valuesFor(team: string | undefined, atMs: number): SettingValues {
    return Object.fromEntries(
      settingNames.map((name) => [name, this.now(name, team, atMs).value]),
    ) as unknown as SettingValues;
  }

  /** What counts for a team, or for the desk, and why. */
  now(name: SettingName, team: string | undefined, atMs: number): SettingNow {
    const own = team !== undefined && settingOf(name).isTeams ? this.#at(name, team, atMs) : undefined;
    if (own) return { value: own.value, from: 'team', version: own.version };
    const desks = this.#at(name, undefined, atMs);
    if (desks) return { value: desks.value, from: 'desk', version: desks.version };
    return { value: settings[name].first, from: 'product', version: 0 };
  }

  #at(name: SettingName, team: string | undefined, atMs: number): SettingVersion | undefined {
    const one = this.#versions.get(keyOf(name, team))?.find(({ sinceMs }) => sinceMs <= atMs);
    return one?.value === undefined ? undefined : one;
  }
}

const keyOf = (name: string, team: string | undefined): string => `${name}\0${team ?? ''}`;
