import { MAX_ASKED_TOGETHER, Permission, rulesOf } from '../../permission/permission.ts';
import { consentHolderOf, standingOf, whyNotWith, type KernelState } from '../state.ts';

/** What was planned and has not been asked of this participant yet, and could be done by whoever holds the consent. */
export function plannedLeft(s: KernelState, participantId: string): Permission[] {
  const holder = consentHolderOf(s);
  return s.planned.flatMap((name) => {
    const { data: permission } = Permission.safeParse(name);
    if (!permission || standingOf(s, participantId, permission).name !== 'notAsked') return [];
    return holder && whyNotWith(holder, permission) ? [] : [permission];
  });
}

/**
 * What of it is asked as soon as the customer is in: all together, in one question. What is always asked alone waits until
 * it is needed, so that no row of questions stands before the first picture.
 */
export function nextPlannedAsk(s: KernelState, participantId: string): Permission[] {
  if (s.phase.name !== 'live' || !s.hasAccepted || !consentHolderOf(s)) return [];
  const together = plannedLeft(s, participantId).filter((permission) => !rulesOf(permission).isSensitive);
  const isHeld = (name: string) =>
    together.some((one) => one === name) || standingOf(s, participantId, name as Permission).name === 'allowed';
  return together.filter((one) => isHeld(rulesOf(one).needs ?? one)).slice(0, MAX_ASKED_TOGETHER);
}
