import { settings } from '@porch/words/settings';
import { contradictionsIn, firstTopics, readTopics, settingOf, type Topic } from '@porch/core';
import { isDeepStrictEqual } from 'node:util';
import type { DataSource, EntityManager } from 'typeorm';
import type { EarlierSettings } from '../../earlier-settings.ts';
import { changePolicy, type PolicyRecords } from './policy-records.ts';
import { PolicyRefused } from './policy-refused.ts';
import { SettingEntity, TeamEntity, TopicEntity } from './policy-tables.ts';

/** What was done with what the environment says, as a word to whoever runs the service. */
export interface FirstWord {
  readonly variable: string;
  readonly words: string;
  /** Whether it has no effect, and somebody may believe that it has. */
  readonly isIdle: boolean;
}

/**
 * Takes what the environment says of policy into the database, where nothing was set yet. Throws PolicyRefused when it
 * contradicts itself, and takes nothing then.
 */
export const takeFirstValues = (
  records: DataSource,
  earlier: EarlierSettings,
  hasDirectory: boolean,
): Promise<FirstWord[]> =>
  changePolicy(records, async (tx, before, nowMs) => {
    const teams = await takeTopics(tx, earlier, before);
    const fresh = earlier.values.filter(({ name }) => !before.versions.some((v) => v.name === name && !v.team));
    const since = new Date(nowMs);
    for (const { name, variable, value } of fresh)
      await tx
        .getRepository(SettingEntity)
        .insert({ name, team: '', version: 1, since, setBy: variable, value } as never);
    const added = fresh.map(({ name, value }) => ({ name, team: undefined, version: 1, sinceMs: nowMs, value }));
    const policy = before.book.with(...added).policyFor(undefined, nowMs);
    const [wrong] = fresh.length ? contradictionsIn(policy, { teams, hasDirectory }) : [];
    if (wrong)
      throw new PolicyRefused(
        `${wrong.settings.map((name) => settingOf(name).earlier ?? name).join(' and ')}: ${wrong.words(settings.en)}`,
      );
    const names = new Set(fresh.map(({ name }) => name));
    const words = earlier.values.flatMap(({ name, variable, value }): FirstWord[] => {
      if (names.has(name))
        return [{ variable, isIdle: false, words: `read once into the setting ${name}; it can be taken away now` }];
      const now = before.book.now(name, undefined, nowMs);
      return isDeepStrictEqual(now.value, value)
        ? []
        : [{ variable, isIdle: true, words: `without effect: the setting ${name} says otherwise; take it away` }];
    });
    return [...words, ...wordOfTopics(earlier, before)];
  });

function wordOfTopics({ topics }: EarlierSettings, before: PolicyRecords): FirstWord[] {
  const variable = 'PORCH_TOPICS';
  if (!topics?.length) return [];
  if (!before.topics.length)
    return [{ variable, isIdle: false, words: 'read once into the topics; it can be taken away now' }];
  // Some say of a topic that it is nobody’s in particular, some say nothing of it.
  const same = JSON.stringify(topics.map(plain)) === JSON.stringify(before.topics.map(plain));
  return same
    ? []
    : [{ variable, isIdle: true, words: 'without effect: porch-admin topic list says otherwise; take it away' }];
}
const plain = ({ topic, words: { en, no, de }, team, skills }: Topic) => [topic, en, no, de, team ?? '', skills];

/** The first topics of a desk that has none, and their teams. Hands back all teams. */
async function takeTopics(tx: EntityManager, { topics }: EarlierSettings, before: PolicyRecords): Promise<string[]> {
  if (before.topics.length) return [...before.teams];
  const first = topics?.length ? topics : readTopics(firstTopics);
  await tx.getRepository(TopicEntity).insert(
    first.map(({ topic, words, team, skills }, place) => ({
      topic,
      place,
      words,
      team: team ?? null,
      skills: [...skills],
    })),
  );
  const fresh = [...new Set(first.flatMap(({ team }) => team ?? []))].filter((name) => !before.teams.includes(name));
  if (fresh.length) await tx.getRepository(TeamEntity).insert(fresh.map((name) => ({ name })));
  return [...before.teams, ...fresh];
}
