import { chatEvolvers } from './chat/evolve.ts';
import { consentEvolvers } from './consent/evolve.ts';
import { endingEvolvers } from './ending/evolve.ts';
import type { KernelEvent } from './events.ts';
import { handoverEvolvers } from './handover/evolve.ts';
import { invitingEvolvers } from './inviting/evolve.ts';
import { joiningEvolvers } from './joining/evolve.ts';
import { besideEvolvers } from './beside/evolve.ts';
import { plannedEvolvers } from './planned/evolve.ts';
import { possibleEvolvers } from './possible/evolve.ts';
import type { KernelState } from './state.ts';

const evolvers = {
  ...invitingEvolvers,
  ...joiningEvolvers,
  ...besideEvolvers,
  ...plannedEvolvers,
  ...possibleEvolvers,
  ...consentEvolvers,
  ...chatEvolvers,
  ...handoverEvolvers,
  ...endingEvolvers,
};

/** What the kernel knows after an event of its own. */
export function evolveKernel(state: KernelState, event: KernelEvent, atMs: number): KernelState {
  // One row for each type; TypeScript cannot tie the row to the event, hence the cast.
  const evolve = evolvers[event.type] as (s: KernelState, e: KernelEvent, atMs: number) => KernelState;
  return evolve(state, event, atMs);
}
