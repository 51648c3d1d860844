import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { DoorPasses } from './door-passes.ts';
import { DoorPassEntity } from './pass-table.ts';

const SWEEP_PAUSE_MS = 60_000;

/** What lets customers' programs in, and how long. */
export const passesModule = defineModule({
  name: 'passes',
  tables: [DoorPassEntity],
  build: ({ records, secrets }: Pick<Kit, 'records' | 'secrets'>) => {
    const passes = new DoorPasses(records, secrets);
    return {
      gives: { passes },
      alongside: async (tx, { id, state }, events, nowMs) => {
        for (const { type } of events) {
          // Their seats are taken: who has a link that was passed on comes too late.
          if (type === 'customerAccepted') await passes.close(tx, id);
          if (type !== 'sessionEnded') continue;
          await passes.endSession(tx, id);
          if (['shared', 'others'].includes(state.computer ?? '')) await passes.endShared(tx, id, nowMs);
        }
      },
      erase: (tx, sessionId) => passes.erase(tx, sessionId),
      repeated: [
        { what: 'forgetting old passes', isShared: true, pauseMs: SWEEP_PAUSE_MS, work: () => passes.sweep() },
      ],
    };
  },
});
