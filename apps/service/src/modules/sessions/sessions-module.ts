import type { PolicyFor } from '@porch/core';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { Technicians } from '../people/technician.ts';
import { decideContext } from './decide-context.ts';
import { sessionProjections } from './projections/index.ts';
import { SessionBook } from './session-book.ts';
import { SessionDesk } from './session-desk.ts';
import { SessionFinder } from './session-finder.ts';
import { SessionLists } from './session-lists.ts';
import { policyOfSessions } from './policy-of.ts';
import { scopeOf } from './scope-of.ts';
import { sessionRoutes } from './session-routes.ts';
import { CommandAnswerEntity, LedgerRowEntity, SessionEntity } from './session-tables.ts';
import { Mending } from './mending.ts';
import {
  SessionFilesEntity,
  SessionPermissionEntity,
  SessionPersonEntity,
  SessionWordsEntity,
} from './record-tables.ts';
import { SessionWriter } from './session-writer.ts';
import { SnapshotEntity } from './snapshot-table.ts';

const MENDING_PAUSE_MS = 1_000;

interface Needs extends Pick<
  Kit,
  'records' | 'background' | 'level' | 'changes' | 'additions' | 'projecting' | 'program' | 'log'
> {
  readonly policyFor: PolicyFor;
  readonly technicians: Technicians;
}

/** Sessions: their ledgers, who writes them, and the lists beside them. */
export const sessionsModule = defineModule({
  name: 'sessions',
  tables: [
    SessionEntity,
    LedgerRowEntity,
    CommandAnswerEntity,
    SnapshotEntity,
    SessionPersonEntity,
    SessionPermissionEntity,
    SessionFilesEntity,
    SessionWordsEntity,
  ],
  projections: sessionProjections,
  build: (kit: Needs) => {
    const { records, background, policyFor, level, changes, additions, projecting, program, technicians } = kit;
    const policyOf = policyOfSessions(policyFor, technicians);
    const currentLevel = (): number => level.current;
    const book = new SessionBook({
      records,
      background,
      contextFor: decideContext({ policyOf, technicians, level: currentLevel }),
      writer: new SessionWriter({ alongside: additions.alongside, projecting, program }),
      program,
      maxEntries: () => policyFor().maxEntries,
      level: currentLevel,
    });
    const mending = new Mending(records, projecting);
    const desk = new SessionDesk({ book, technicians, additions });
    const finder = new SessionFinder({ records, technicians });
    const lists = new SessionLists({ records, finder, additions });
    const endWatching = book.onAppended((appended) => changes.changed(scopeOf(appended)));
    return {
      gives: { book, desk, lists, policyOf },
      routes: [{ plugin: sessionRoutes({ records, book, desk, lists, policyFor }) }],
      repeated: [
        {
          what: 'mending what is behind ledgers',
          isShared: true,
          pauseMs: MENDING_PAUSE_MS,
          work: () => mending.round(),
        },
      ],
      figures: [
        {
          name: 'porch_sessions_behind',
          help: 'Sessions of which something kept beside the ledger is behind it',
          read: () => mending.countBehind(),
        },
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
