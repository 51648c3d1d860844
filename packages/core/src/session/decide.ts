import {
  abilityActionOf,
  abilityGivesBack,
  decideAbility,
  heldBack,
  isAbilityCommand,
  type AbilityCommand,
} from '../abilities/rules.ts';
import { refuse, type Decision } from '../decision.ts';
import { decideKernel } from '../kernel/decide.ts';
import { isOfDesk, noteFact, type DecideContext as KernelContext } from '../kernel/decider.ts';
import type { NotedFact } from '../ability/noted-facts.ts';
import { kernelActions } from '../kernel/who-may.ts';
import { whyPartMayNot, type PartAction } from '../people/part.ts';
import type { Participant } from '../kernel/state.ts';
import { rulesOf } from '../permission/permission.ts';
import type { SessionCommand } from './session-commands.ts';
import type { SessionEvent } from './session-events.ts';
import type { SessionState } from './session-state.ts';
import { viewOf } from './session-view.ts';

export type DecideContext = Omit<KernelContext, 'heldBack'>;

const factIn = (command: SessionCommand): number | undefined => ('fact' in command ? command.fact : undefined);

/**
 * A fact that is older than one already told gives nothing back: played again, or out of order, "somebody is here" or
 * "the words were the same" would undo what was said since. What takes away holds whenever it comes.
 */
function isStale(me: Participant, command: SessionCommand): boolean {
  const fact = factIn(command);
  return fact !== undefined && fact <= me.lastFact && isAbilityCommand(command) && abilityGivesBack(command);
}

function abilityEvents(
  s: SessionState,
  command: AbilityCommand,
  me: Participant,
  x: DecideContext,
): Decision<SessionEvent> {
  const decision = decideAbility(s.slices, command, me, viewOf(s, x.nowMs), x.policy);
  if ('noted' in decision) return noteFact(me, decision.noted as NotedFact, factIn(command));
  return decision as Decision<SessionEvent>;
}

/** What a command is, to the table of parts. Without a row nobody may send it. */
export const actionOf = (command: SessionCommand): PartAction | undefined =>
  isAbilityCommand(command) ? abilityActionOf(command) : kernelActions[command.type];

/** What becomes of a participant's command: events, or a refusal and nothing else. */
export function decideSession(
  s: SessionState,
  command: SessionCommand,
  byId: string,
  x: DecideContext,
): Decision<SessionEvent> {
  const me = s.participants[byId];
  if (!me) return refuse('NOT_PRESENT');
  const fact = factIn(command);
  // A technician who went, by handover for one, has nothing more to say; but what the customer's side reports still counts.
  if (me.isGone && !(fact !== undefined && !isOfDesk(me)) && command.type !== 'logOutcome')
    return refuse('NOT_PRESENT');
  if (me.isReplaced) return refuse('REPLACED');
  const action = actionOf(command);
  const whyNot = action === undefined ? 'WRONG_ROLE' : whyPartMayNot(me.part, action);
  if (whyNot) return refuse(whyNot);
  if (isStale(me, command)) return noteFact(me, 'said again what was told before', fact);
  if (isAbilityCommand(command)) return abilityEvents(s, command, me, x);
  return decideKernel(s, command, me, {
    ...x,
    heldBack: (permission, participantId) =>
      heldBack(s.slices, viewOf(s, x.nowMs), { permission, rules: rulesOf(permission), participantId }, x.policy),
  });
}
