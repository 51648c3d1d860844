import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { KeptAnswers } from './kept-answers.ts';
import { OnceEntity } from './once-table.ts';

const OLD_ANSWERS_PAUSE_MS = 10 * 60_000;

/** What is asked twice and done once. */
export const onceModule = defineModule({
  name: 'once',
  tables: [OnceEntity],
  build: ({ records, secrets }: Pick<Kit, 'records' | 'secrets'>) => {
    const answers = new KeptAnswers(records, secrets);
    return {
      gives: {},
      beforeRoutes: (app) => void app.decorate('onceAnswers', answers),
      erase: (tx, sessionId) => answers.erase(tx, sessionId),
      repeated: [
        {
          what: 'forgetting old answers',
          isShared: true,
          pauseMs: OLD_ANSWERS_PAUSE_MS,
          work: () => answers.forgetOld(),
        },
      ],
    };
  },
});
