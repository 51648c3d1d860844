import { readSettingText, readTopics, settingNames, settingOf, type SettingName, type Topic } from '@porch/core';
import { readFileSync } from 'node:fs';

/**
 * What a desk set by the environment before settings were kept in the database: read once, as first values. Whoever starts
 * a new desk may say its first values so, too.
 */
export interface EarlierSettings {
  readonly values: readonly EarlierSetting[];
  /** Undefined: nothing was said of topics. */
  readonly topics: readonly Topic[] | undefined;
}
export interface EarlierSetting {
  readonly name: SettingName;
  readonly variable: string;
  readonly value: unknown;
}

const TOPICS = 'PORCH_TOPICS';
const TOPIC_NEEDS = 'PORCH_TOPIC_NEEDS';
const variables = new Set<string>([
  TOPICS,
  TOPIC_NEEDS,
  ...settingNames.flatMap((name) => settingOf(name).earlier ?? []),
]);

export const isEarlierSetting = (variable: string): boolean => variables.has(variable);

/** `named` puts the variable's name before what is wrong with it. */
export function readEarlierSettings(
  environment: NodeJS.ProcessEnv,
  named: <T>(variable: string, read: () => T) => T,
): EarlierSettings {
  const topics = environment[TOPICS];
  return {
    values: settingNames.flatMap((name) => {
      const { earlier: variable, isEarlierFile } = settingOf(name);
      const said = variable === undefined ? undefined : environment[variable];
      if (variable === undefined || said === undefined) return [];
      const value = named(variable, () => readSettingText(name, isEarlierFile ? readFileSync(said, 'utf8') : said));
      return [{ name, variable, value }];
    }),
    topics: topics === undefined ? undefined : named(TOPICS, () => readTopics(topics, environment[TOPIC_NEEDS] ?? '')),
  };
}
