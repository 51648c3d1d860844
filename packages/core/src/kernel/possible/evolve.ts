import type { Evolvers } from '../evolvers.ts';
import { withParticipant } from '../people.ts';
import type { possibleEvents } from './events.ts';

export const possibleEvolvers = {
  // What is asked stays asked, and what is allowed stays allowed: it is done again as soon as it can be.
  'possible/changed': (s, e) => withParticipant(s, e.by, { can: e.can, cannot: e.cannot }),
} satisfies Evolvers<typeof possibleEvents>;
