import { guardRoutes } from '../../auth/guard.ts';
import { whileStarting } from '../../db/data-source.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { AskedWork } from './asked-work.ts';
import { Attempts } from './attempts.ts';
import { OpenConsoles } from './open-consoles.ts';
import { ownSignInsRoutes } from './own-sign-ins-routes.ts';
import { People } from './people.ts';
import { peopleRoutes } from './people-routes.ts';
import { AttemptEntity, PreferencesEntity, SignInEntity, TechnicianEntity } from './people-tables.ts';
import { preferencesRoutes } from './preferences-routes.ts';
import { SignIns } from './sign-in.ts';

const SIGN_INS_PAUSE_MS = 5_000;
const PEOPLE_PAUSE_MS = 2_000;
const OLD_TRIES_PAUSE_MS = 10 * 60_000;

/** Who works here, who is signed in, and what wrong tries cost. */
export const peopleModule = defineModule({
  name: 'people',
  tables: [TechnicianEntity, SignInEntity, AttemptEntity, PreferencesEntity],
  build: async ({
    records,
    secrets,
    changes,
    additions,
  }: Pick<Kit, 'records' | 'secrets' | 'changes' | 'additions'>) => {
    const people = new People(records);
    await whileStarting(() => people.read());
    const technicians = people.byId;
    const attempts = new Attempts(records);
    const signIns = new SignIns(records, attempts, new AskedWork(secrets));
    const consoles = new OpenConsoles();
    const endSignIns = (ids: readonly string[]): void => additions.endSignIns(ids);
    return {
      gives: { technicians, attempts, signIns, consoles },
      beforeRoutes: (app) => guardRoutes(app, signIns),
      routes: [
        { plugin: peopleRoutes({ signIns, technicians, consoles, endSignIns }) },
        { plugin: ownSignInsRoutes({ signIns, endSignIns }) },
        { plugin: preferencesRoutes(records) },
      ],
      repeated: [
        {
          // What was ended elsewhere, ran out or was forbidden ends here, too.
          what: 'ending what was opened with old sign-ins',
          pauseMs: SIGN_INS_PAUSE_MS,
          work: async () => endSignIns(await signIns.ended(additions.signIns)),
        },
        {
          what: 'reading who works here',
          pauseMs: PEOPLE_PAUSE_MS,
          work: async () => {
            if (await people.read()) changes.changed({ parts: ['waiting', 'states'] });
          },
        },
        { what: 'forgetting old tries', isShared: true, pauseMs: OLD_TRIES_PAUSE_MS, work: () => attempts.forgetOld() },
      ],
    };
  },
});
