import { refuse, type Decision } from '../../decision.ts';
import { rulesOf, type Permission } from '../../permission/permission.ts';
import type { KernelCommandOf } from '../commands.ts';
import type { DecideContext } from '../decider.ts';
import type { KernelEvent } from '../events.ts';
import { completedHandover } from '../handover/handing-over.ts';
import { standingOf, whyNotWith, type KernelState, type Participant } from '../state.ts';

/** The signed grant and the ask have to say the same, for the key the technician really has. */
export function grantEvents(
  s: KernelState,
  c: KernelCommandOf<'grantAsk'>,
  me: Participant,
  x: DecideContext,
): Decision<KernelEvent> {
  if (s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
  const ask = s.asks[c.askId];
  if (!ask || x.nowMs >= ask.expiresAtMs) return refuse('ASK_NOT_OPEN');
  const technician = s.participants[ask.participantId];
  if (!technician || technician.isGone) return refuse('ASK_NOT_OPEN');
  const events: KernelEvent[] = [];
  let lastNumber = s.lastGrantNumber;
  for (const { statement, signature } of c.grants) {
    const grant = x.readGrant(statement, signature, me.signKey);
    const fits =
      grant &&
      grant.sessionId === x.sessionId &&
      ask.permissions.includes(grant.permission) &&
      grant.technicianSignKey === technician.signKey &&
      grant.technicianAgreeKey === technician.agreeKey &&
      grant.number > lastNumber &&
      grant.endsAtMs > x.nowMs &&
      whyNotWith(me, grant.permission) === undefined &&
      grant.endsAtMs <= neededUntilMs(s, ask.participantId, grant.permission, events);
    if (!fits) return refuse('GRANT_INVALID');
    lastNumber = grant.number;
    events.push({
      type: 'permissionGranted',
      by: me.id,
      askId: ask.id,
      participantId: ask.participantId,
      permission: grant.permission,
      grantNumber: grant.number,
      endsAtMs: grant.endsAtMs,
      grant: statement,
      signature,
      ...(c.isStanding ? { isStanding: true } : {}),
      ...(c.isReturn ? { isReturn: true } : {}),
    });
  }
  const granted = events.map((e) => e.type === 'permissionGranted' && e.permission);
  // The customer may grant less than they were asked for: the rest is a no.
  const rest: KernelEvent[] = ask.permissions.every((p) => granted.includes(p))
    ? []
    : [{ type: 'askClosed', by: me.id, askId: ask.id, how: 'refused' }];
  return [...events, ...rest, ...completedHandover(s, technician, me.id)];
}

/** A permission that needs another ends with it at the latest, and is nothing without it. `granted` comes in the same breath. */
export function neededUntilMs(
  s: KernelState,
  participantId: string,
  permission: Permission,
  granted: readonly KernelEvent[],
): number {
  const { needs } = rulesOf(permission);
  if (!needs) return Infinity;
  const now = granted.find((e) => e.type === 'permissionGranted' && e.permission === needs);
  if (now?.type === 'permissionGranted') return now.endsAtMs;
  const standing = standingOf(s, participantId, needs);
  return standing.name === 'allowed' ? standing.endsAtMs : -Infinity;
}
