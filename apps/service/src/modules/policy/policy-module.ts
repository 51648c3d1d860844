import type { PolicyFor } from '@porch/core';
import type { Config } from '../../config.ts';
import { whileStarting } from '../../db/data-source.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { takeFirstValues } from './first-values.ts';
import { PolicyNow } from './policy-now.ts';
import { SettingEntity, TeamEntity, TopicEntity } from './policy-tables.ts';

/** As often as people are read: whoever sets something at the terminal sees it within seconds. */
const POLICY_PAUSE_MS = 2_000;

interface Needs extends Pick<Kit, 'records' | 'changes' | 'log'> {
  readonly config: Pick<Config, 'earlier' | 'directory'>;
}

/** What the desk has set, its topics and its teams. */
export const policyModule = defineModule({
  name: 'policy',
  tables: [SettingEntity, TopicEntity, TeamEntity],
  build: async ({ records, changes, log, config }: Needs) => {
    const taken = await whileStarting(() => takeFirstValues(records, config.earlier, !!config.directory));
    for (const { variable, words, isIdle } of taken)
      if (isIdle) log.warn(`${variable}: ${words}`);
      else log.info(`${variable}: ${words}`);
    const policy = new PolicyNow(records, (unread) =>
      log.error(`set, but not understood, so not used: ${unread.join('; ')}`),
    );
    await whileStarting(() => policy.read());
    const policyFor: PolicyFor = (team, atMs) => policy.policyFor(team, atMs);
    return {
      gives: { policyFor },
      repeated: [
        {
          what: 'reading what the desk has set',
          pauseMs: POLICY_PAUSE_MS,
          work: async () => {
            if (await policy.read()) changes.changed({ parts: ['waiting', 'states'] });
          },
        },
      ],
    };
  },
});
