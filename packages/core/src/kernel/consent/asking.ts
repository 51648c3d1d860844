import { refuse, type Decision } from '../../decision.ts';
import { askAgainMs, askOpenMs } from '../../permission/asking.ts';
import { apartFrom, rulesOf, type Permission } from '../../permission/permission.ts';
import { isEffective } from '../../permission/permission-rules.ts';
import type { KernelCommandOf } from '../commands.ts';
import type { DecideContext } from '../decider.ts';
import type { KernelEvent } from '../events.ts';
import {
  consentHolderOf,
  isConfirmed,
  isTakingOver,
  standingOf,
  whyNotWith,
  type KernelState,
  type Participant,
} from '../state.ts';

/** Whether what must never come together with it is held, or being asked for, by anybody. */
function isKeptApart(s: KernelState, permission: Permission, wanted: readonly Permission[], nowMs: number): boolean {
  return apartFrom(permission).some(
    (other) =>
      wanted.includes(other) ||
      Object.keys(s.standings).some((participantId) => {
        const standing = standingOf(s, participantId, other);
        return isEffective(standing, nowMs) || (standing.name === 'waiting' && nowMs < standing.expiresAtMs);
      }),
  );
}

/** What becomes of an ask: it stays open for its time, or the reason why it is not even put. */
export function askEvents(
  s: KernelState,
  c: KernelCommandOf<'askPermissions'>,
  me: Participant,
  x: DecideContext,
): Decision<KernelEvent> {
  if (s.phase.name !== 'live') return refuse('ACCEPTANCE_MISSING');
  const holder = consentHolderOf(s);
  if (!holder) return refuse('NO_CONSENT_HOLDER');
  const wanted = [...new Set(c.permissions)];
  for (const permission of wanted) {
    const whyNot = whyNotWith(holder, permission);
    if (whyNot) return refuse(whyNot === 'browser-cannot' ? 'NEEDS_DOORSTEP' : 'NOT_POSSIBLE_HERE');
  }
  for (const permission of wanted) {
    const why = x.heldBack(permission, me.id);
    if (why) return refuse(why);
  }
  if (s.isMinor && wanted.some((permission) => rulesOf(permission).isNotForMinors)) return refuse('CUSTOMER_IS_MINOR');
  for (const permission of wanted) {
    const rules = rulesOf(permission);
    if (!x.mayAsk(me.technicianId, permission)) return refuse('NOT_ALLOWED_BY_DESK');
    if (!x.isWritten(permission)) return refuse('UPGRADE_UNFINISHED');
    if (rules.needsConfirmed && !isConfirmed(s)) return refuse('IDENTITY_UNCONFIRMED');
    if (isKeptApart(s, permission, wanted, x.nowMs)) return refuse('NEVER_TOGETHER');
    // A colleague's takeover is the one prompt that lists everything; otherwise a sensitive one stands alone.
    if (rules.isSensitive && wanted.length > 1 && !isTakingOver(s, me.technicianId)) return refuse('ASKED_ALONE');
    if (rules.needs && !wanted.includes(rules.needs) && !isEffective(standingOf(s, me.id, rules.needs), x.nowMs))
      return refuse('PERMISSION_NEEDS_OTHER');
    const standing = standingOf(s, me.id, permission);
    // Asking for what one has would put a question mark behind it, and behind what needs it.
    if (isEffective(standing, x.nowMs)) return refuse('ALREADY_ALLOWED');
    if (standing.name === 'waiting' && x.nowMs < standing.expiresAtMs) return refuse('ASK_TOO_SOON');
    const againMs = askAgainMs(x.policy.asks, permission, s.noes[permission] ?? 0);
    const lastNoMs = s.lastNoMs[permission];
    if (lastNoMs !== undefined && x.nowMs < lastNoMs + againMs) return refuse('ASK_TOO_SOON');
  }
  return [
    {
      type: 'permissionsAsked',
      by: me.id,
      askId: c.askId,
      participantId: me.id,
      permissions: wanted,
      expiresAtMs: x.nowMs + askOpenMs(x.policy.asks, wanted),
    },
  ];
}
