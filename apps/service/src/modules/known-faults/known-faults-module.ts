import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technicians } from '../people/technician.ts';
import { KnownFaultDesk } from './known-fault-desk.ts';
import { knownFaultRoutes } from './known-fault-routes.ts';
import { KnownFaultEntity } from './known-fault-table.ts';

interface Needs extends Pick<Kit, 'records' | 'changes'> {
  readonly outbox: Outbox;
  readonly technicians: Technicians;
}

/** What many have at once, said before anybody types. */
export const knownFaultsModule = defineModule({
  name: 'known-faults',
  tables: [KnownFaultEntity],
  build: ({ records, changes, outbox, technicians }: Needs) => {
    const knownFaults = new KnownFaultDesk(records, outbox, technicians);
    return {
      gives: { knownFaults },
      routes: [{ plugin: knownFaultRoutes({ knownFaults, changed: changes.of('known-faults') }) }],
    };
  },
});
