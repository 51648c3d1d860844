import type { PolicyFor } from '@porch/core';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { Technicians } from '../people/technician.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import { QueueDesk } from './queue-desk.ts';
import { queueRoutes } from './queue-routes.ts';
import { QueueEntryEntity, QueueMessageEntity, TechnicianStateEntity } from './queue-tables.ts';
import { routingRound } from './routing-round.ts';
import { TechnicianStates } from './technician-states.ts';
import { WaitingEstimates } from './waiting-estimates.ts';

/** Who waits is looked at so often; an offer is there within it. */
const ROUTING_PAUSE_MS = 400;

interface Needs extends Pick<Kit, 'records' | 'changes'> {
  readonly policyFor: PolicyFor;
  readonly technicians: Technicians;
  readonly consoles: OpenConsoles;
  readonly lists: SessionLists;
  readonly passes: DoorPasses;
}

/** Those who wait, and those who can take them. */
export const queueModule = defineModule({
  name: 'queue',
  tables: [QueueEntryEntity, QueueMessageEntity, TechnicianStateEntity],
  build: ({ records, policyFor, changes, technicians, consoles, lists, passes }: Needs) => {
    const states = new TechnicianStates({ records, policyFor, technicians, consoles, lists });
    const estimates = new WaitingEstimates({ records, policyFor, states, lists });
    const queue = new QueueDesk({ records, policyFor, states, technicians, passes, estimates });
    const endWatching = changes.watch(({ parts }) => {
      if (!parts || parts.includes('states')) estimates.forget();
    });
    return {
      gives: { queue, states },
      routes: [{ plugin: queueRoutes({ queue, states, changed: changes.of('waiting', 'states') }) }],
      alongside: async (tx, { state }, events, nowMs) => {
        if (state.technicianId && events.some(({ type }) => type === 'sessionEnded'))
          await states.wrapUp(tx, state.technicianId, nowMs);
      },
      erase: (tx, sessionId) => queue.erase(tx, sessionId),
      repeated: [
        {
          what: 'routing the queue',
          pauseMs: ROUTING_PAUSE_MS,
          work: async () => {
            if (await routingRound({ records, policyFor, states })) changes.changed({ parts: ['waiting', 'states'] });
          },
        },
      ],
      close: () => void endWatching(),
      figures: [{ name: 'porch_waiting_customers', help: 'Customers in the queue', read: () => queue.countWaiting() }],
    };
  },
});
