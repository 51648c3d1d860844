import type { Decision } from '../decision.ts';
import { chatDeciders } from './chat/decide.ts';
import type { KernelCommand } from './commands.ts';
import { consentDeciders } from './consent/decide.ts';
import type { DecideContext } from './decider.ts';
import { endingDeciders } from './ending/decide.ts';
import type { KernelEvent } from './events.ts';
import { handoverDeciders } from './handover/decide.ts';
import { joiningDeciders } from './joining/decide.ts';
import { besideDeciders } from './beside/decide.ts';
import { plannedDeciders } from './planned/decide.ts';
import { possibleDeciders } from './possible/decide.ts';
import type { KernelState, Participant } from './state.ts';

const deciders = {
  ...joiningDeciders,
  ...besideDeciders,
  ...plannedDeciders,
  ...possibleDeciders,
  ...consentDeciders,
  ...chatDeciders,
  ...handoverDeciders,
  ...endingDeciders,
};

/** What becomes of a command that belongs to no ability. */
export function decideKernel(
  state: KernelState,
  command: KernelCommand,
  me: Participant,
  context: DecideContext,
): Decision<KernelEvent> {
  // One row for each type; TypeScript cannot tie the row to the command, hence the cast.
  type Decide = (s: KernelState, c: KernelCommand, me: Participant, x: DecideContext) => Decision<KernelEvent>;
  return (deciders[command.type] as unknown as Decide)(state, command, me, context);
}
