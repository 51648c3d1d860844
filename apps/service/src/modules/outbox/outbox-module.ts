import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { Outbox } from './outbox.ts';
import { OutboxEntity } from './outbox-table.ts';

const LOOK_MS = 500;

/** What must reach somebody outside, tried until it has. Each module carries its own kinds. */
export const outboxModule = defineModule({
  name: 'outbox',
  tables: [OutboxEntity],
  build: ({ records, log, changes, additions }: Pick<Kit, 'records' | 'log' | 'changes' | 'additions'>) => {
    const outbox = new Outbox({
      records,
      log,
      onChanged: changes.of('outbox', 'sessions', 'bookings'),
      carrier: (kind) => additions.carrier(kind),
    });
    return {
      gives: { outbox },
      erase: (tx, sessionId) => outbox.erase(tx, sessionId),
      beside: async (ids) => {
        const counts = await outbox.undeliveredOf(ids);
        return new Map(ids.map((id) => [id, { undelivered: counts.get(id) ?? 0 }]));
      },
      repeated: [{ what: 'reading the outbox', pauseMs: LOOK_MS, work: () => outbox.deliverDue() }],
      figures: [
        { name: 'porch_outbox_age_seconds', help: 'Age of the oldest parcel', read: () => outbox.ageSeconds() },
      ],
    };
  },
});
