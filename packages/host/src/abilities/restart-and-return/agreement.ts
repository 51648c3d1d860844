import {
  allPermissions,
  dependants,
  hasWhatItNeeds,
  MAX_ASKED_TOGETHER,
  isEffective,
  rulesOf,
  standingOf,
  type OpenAsk,
  type Participant,
  type Permission,
  type SessionState,
} from '@porch/core';
import type { ReturnAgreement } from '../../ports/restart-port.ts';

/** What can come back by itself: what lets the desk come anew, or ends after minutes, is asked for anew. */
const mayComeBack = (permission: Permission): boolean => {
  const { isForComingBack, longestMs, needsConfirmed } = rulesOf(permission);
  return !isForComingBack && longestMs === undefined && !needsConfirmed;
};

/** What shows the screen, or is nothing without that. */
export function seesScreen(permission: Permission): boolean {
  const { showsPicture, needs } = rulesOf(permission);
  return showsPicture === true || (needs !== undefined && seesScreen(needs as Permission));
}

/** What is asked for alone each time is not offered as if it were a matter of course. */
export const isOfferedOn = (permission: Permission): boolean =>
  !rulesOf(permission).isSensitive || permission === 'restart-computer';

/**
 * What a technician may do now and could do again after a restart, as the person is asked for it: no more than one question
 * has room for on any screen, the next restart first, then what is usual. The rest is asked for anew; and so is what sees, while
 * the person keeps something of their screen to themselves: after a restart nobody knows any longer what that was.
 */
export function offeredReturn(
  state: SessionState,
  { id }: Participant,
  { nowMs, isLimited }: { readonly nowMs: number; readonly isLimited: boolean },
): Permission[] {
  const now = allPermissions.filter(
    (one) => mayComeBack(one) && !(isLimited && seesScreen(one)) && isEffective(standingOf(state, id, one), nowMs),
  );
  const rank = (one: Permission) => (one === 'restart-computer' ? 0 : isOfferedOn(one) ? 1 : 2);
  const first = [...now].sort((one, other) => rank(one) - rank(other)).slice(0, MAX_ASKED_TOGETHER);
  return now.filter((one) => first.includes(one));
}

/** What stayed ticked of it, each with the end it has now, and nothing without what it needs. */
export function agreementOf(
  state: SessionState,
  { id, signKey, agreeKey }: Participant,
  offered: readonly Permission[],
  ticked: readonly boolean[],
): ReturnAgreement {
  let chosen = offered.filter((one, i) => ticked[i] ?? isOfferedOn(one));
  // What needs something that is left out is nothing, and so is what needs that.
  for (let before = 0; before !== chosen.length;) {
    before = chosen.length;
    chosen = chosen.filter((one) => hasWhatItNeeds(one, (needed) => chosen.includes(needed)));
  }
  const permissions = chosen.flatMap((permission) => {
    const standing = standingOf(state, id, permission);
    return standing.name === 'allowed' ? [{ permission, endsAtMs: standing.endsAtMs }] : [];
  });
  return { signKey, agreeKey, permissions };
}

/** This, and whatever is nothing without it. */
export function withDependants(permission: Permission): Permission[] {
  return [permission, ...dependants(permission).flatMap((one) => withDependants(one))];
}

/** Until when what was agreed answers this ask by itself; undefined where the person has to be asked. */
export function agreedUntilMs(
  { signKey, agreeKey, permissions }: ReturnAgreement,
  unused: ReadonlySet<Permission>,
  ask: OpenAsk,
  from: Participant | undefined,
  nowMs: number,
): number | undefined {
  if (from?.signKey !== signKey || from.agreeKey !== agreeKey) return undefined;
  const ends = ask.permissions.map((one) =>
    unused.has(one) ? (permissions.find(({ permission }) => permission === one)?.endsAtMs ?? 0) : 0,
  );
  const untilMs = Math.min(...ends);
  return untilMs > nowMs ? untilMs : undefined;
}
