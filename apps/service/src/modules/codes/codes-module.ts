import type { PolicyFor } from '@porch/core';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { CodeDesk } from './code-desk.ts';
import { codeRoutes } from './code-routes.ts';
import { CodeEntity } from './code-table.ts';
import { SessionCodes } from './session-codes.ts';

const ROTATION_LOOK_MS = 1_000;

interface Needs extends Pick<Kit, 'records' | 'secrets'> {
  readonly policyFor: PolicyFor;
  readonly policyOf: PolicyOf;
  readonly book: SessionBook;
}

/** One-time codes. */
export const codesModule = defineModule({
  name: 'codes',
  tables: [CodeEntity],
  build: ({ records, secrets, policyFor, policyOf, book }: Needs) => {
    const codes = new CodeDesk(records, secrets, (technicianId) => policyOf({ technicianId }).codeLifetimeMs);
    const sessionCodes = new SessionCodes({ book, codes, policyFor });
    return {
      gives: { codes, sessionCodes },
      routes: [{ plugin: codeRoutes(sessionCodes) }],
      alongside: async (tx, { id }, events) => {
        // The seats are taken, or nobody comes in any longer: who overheard a code comes too late.
        if (events.some(({ type }) => type === 'customerAccepted' || type === 'sessionEnded'))
          await codes.close(tx, id);
      },
      beside: (ids) => codes.beside(ids),
      repeated: [
        {
          what: 'changing codes',
          isShared: true,
          isDue: () => policyFor().codeRotateMs > 0,
          pauseMs: ROTATION_LOOK_MS,
          work: () => sessionCodes.rotate(),
        },
      ],
    };
  },
});
