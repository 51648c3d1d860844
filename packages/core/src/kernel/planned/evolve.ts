import type { Evolvers } from '../evolvers.ts';
import type { plannedEvents } from './events.ts';

export const plannedEvolvers = {
  'planned/chosen': (s, e) => ({ ...s, planned: e.permissions }),
} satisfies Evolvers<typeof plannedEvents>;
