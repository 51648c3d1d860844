import type { Evolvers } from '../evolvers.ts';
import type { chatEvents } from './events.ts';

export const chatEvolvers = {
  chatSent: (s) => s,
} satisfies Evolvers<typeof chatEvents>;
