import { BesidePart } from '../../people/part.ts';
import type { Evolvers } from '../evolvers.ts';
import type { KernelState } from '../state.ts';
import type { besideEvents } from './events.ts';

export function withoutLetIn(s: KernelState, technicianId: string): KernelState {
  const { [technicianId]: _gone, ...letIn } = s.letIn;
  return { ...s, letIn };
}

export const besideEvolvers = {
  'beside/letIn': (s, e) => {
    const part = BesidePart.safeParse(e.part);
    // As something that only a later release knows: nobody comes in as that here.
    return part.success ? { ...s, letIn: { ...s.letIn, [e.technicianId]: part.data } } : s;
  },
  'beside/sentAway': (s, e) => withoutLetIn(s, e.technicianId),
} satisfies Evolvers<typeof besideEvents>;
