import {
  abilitiesEnded,
  abilitiesFell,
  abilitiesLeft,
  evolveAbility,
  isAbilityEvent,
  type Slices,
} from '../abilities/index.ts';
import { evolveKernel } from '../kernel/evolve.ts';
import type { KernelEvent } from '../kernel/events.ts';
import { withParticipant } from '../kernel/people.ts';
import { isOver, type KernelState } from '../kernel/state.ts';
import { allPermissions } from '../permission/permission.ts';
import type { PermissionStanding } from '../permission/permission-rules.ts';
import type { SessionEvent } from './session-events.ts';
import type { SessionState } from './session-state.ts';
import { viewOf } from './session-view.ts';

/** What others need falls last. */
const inFallingOrder = [...allPermissions].reverse();
type Name = PermissionStanding['name'] | undefined;
const hasFallen = (before: Name, after: Name): boolean =>
  (before === 'allowed' || before === 'waiting') && (after === 'takenBack' || after === 'over');

/** What the kernel's event means for the abilities: permissions that fell, people who left, the end. */
function slicesAfter(before: SessionState, after: KernelState, event: KernelEvent): Slices {
  let slices = before.slices;
  if (after.standings !== before.standings)
    for (const [id, standings] of Object.entries(before.standings))
      if (standings !== after.standings[id])
        for (const permission of inFallingOrder)
          if (hasFallen(standings[permission]?.name, after.standings[id]?.[permission]?.name))
            slices = abilitiesFell(slices, permission, id);
  if (after.participants !== before.participants)
    for (const { id, isGone } of Object.values(before.participants))
      if (!isGone && after.participants[id]?.isGone) slices = abilitiesLeft(slices, id, before.holderId === id);
  return event.type === 'sessionEnded' && isOver(after) ? abilitiesEnded(slices) : slices;
}

/** What is true after an event. Total: every event fits every state, since facts are never refused. */
export function evolveSession(state: SessionState, event: SessionEvent, atMs: number): SessionState {
  let next: SessionState;
  if (isAbilityEvent(event)) next = { ...state, slices: evolveAbility(state.slices, event, viewOf(state, atMs)) };
  else {
    const kernel = evolveKernel(state, event, atMs);
    next = { ...kernel, slices: slicesAfter(state, kernel, event) };
  }
  const fact = 'fact' in event ? event.fact : undefined;
  if (fact === undefined) return next;
  const lastFact = Math.max(next.participants[event.by]?.lastFact ?? 0, fact);
  return { ...withParticipant(next, event.by, { lastFact }), slices: next.slices };
}
