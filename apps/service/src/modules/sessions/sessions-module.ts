import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { Technicians } from '../people/technician.ts';
import { decideContext } from './decide-context.ts';
import { SessionBook } from './session-book.ts';
import { SessionDesk } from './session-desk.ts';
import { SessionLists } from './session-lists.ts';
import { sessionRoutes } from './session-routes.ts';
import { CommandAnswerEntity, LedgerRowEntity, SessionEntity } from './session-tables.ts';

interface Needs extends Pick<Kit, 'records' | 'background' | 'policy' | 'level' | 'changes' | 'additions'> {
  readonly technicians: Technicians;
}

/** Sessions: their ledgers, who writes them, and the lists beside them. */
export const sessionsModule = defineModule({
  name: 'sessions',
  tables: [SessionEntity, LedgerRowEntity, CommandAnswerEntity],
  build: ({ records, background, policy, level, changes, additions, technicians }: Needs) => {
    const currentLevel = (): number => level.current;
    const book = new SessionBook({
      records,
      background,
      contextFor: decideContext({ policy, technicians, level: currentLevel }),
      alongside: additions.alongside,
      maxEntries: policy.maxEntries,
      level: currentLevel,
    });
    const desk = new SessionDesk({ records, book, technicians, additions });
    const lists = new SessionLists({ records, technicians, additions });
    const endWatching = book.onAppended(changes.changed);
    return {
      gives: { book, desk, lists },
      routes: [{ plugin: sessionRoutes({ records, book, desk, lists, policy }) }],
      figures: [
        {
          name: 'porch_sessions_under_way',
          help: 'Sessions joined or live',
          read: () => lists.countUnderWay(),
        },
      ],
      close: () => void endWatching(),
    };
  },
});
