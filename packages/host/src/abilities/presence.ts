import { rulesOf } from '@porch/core';
import { isForNobody } from '../for-nobody.ts';
import type { HostAbility, Kit } from '../kit.ts';
import { partShown } from '../part-shown.ts';
import { whyWithout } from '../ports/host-ports.ts';

const LOOK_MS = 500;

/**
 * Whether anybody is at the computer, and whether what they do there is for nobody else. Whoever is there gives signs, with
 * their own mouse or keyboard, in the chat, or by answering; without any for a while nobody works here, unless that was
 * allowed.
 */
export const presence: HostAbility = {
  name: 'presence',
  whyNot: (_permission, ports) => whyWithout(ports, 'hands'),
  warn: ({ permission, words, clockAt }) =>
    words.presence.alone({ until: clockAt(rulesOf(permission).longestMs ?? 0) }),
  begin(kit) {
    const here = watchPresence(kit);
    const alone = watchPrivate(kit);
    const front = watchFront(kit);
    const { held, shared, words } = kit;
    return {
      pauses: (permission, signKey) => {
        const { isHandsOn } = rulesOf(permission);
        if (alone.isPrivate && isForNobody(permission)) return PRIVATE;
        const mayWorkAlone = held.holds('work-alone', signKey) || shared.mayBeAlone(signKey);
        if (mayWorkAlone) return undefined;
        // Whoever it is sees neither what is done on a desktop behind theirs nor its Stop.
        if (front.isBehind && isForNobody(permission)) return BEHIND;
        return isHandsOn && here.isAway ? 'nobody is at their computer' : undefined;
      },
      changed: () => front.check(),
      banner: (soFar) => {
        if (alone.isPrivate) return { what: words.presence.isPrivate, besides: [], isPrivate: true };
        // Of the hands that may be used here, those that nobody lets go on alone rest.
        const sees = words.picture.sees({ part: partShown(kit.ports) });
        return here.isAway && soFar.what !== sees ? { ...soFar, what: `${sees}; ${words.presence.isAway}` } : soFar;
      },
      close: () => {
        here.close();
        alone.close();
        front.close();
      },
    };
  },
};

/** The same where nobody's hands are used: a private moment that was said anywhere holds. */
export const privateMoments: HostAbility = {
  name: 'presence',
  whyNot: () => 'browser-cannot',
  begin: ({ connection }) => ({
    pauses: (permission) =>
      connection.state.slices.presence.privateAt.length && isForNobody(permission) ? PRIVATE : undefined,
    close: () => undefined,
  }),
};

const PRIVATE = 'they are doing something private';
const BEHIND = 'another desktop is in front at their computer';

function watchPresence(kit: Kit): { readonly isAway: boolean; close(): void } {
  const { connection, time, ports, desk } = kit;
  let signAtMs = time.nowMs();
  let isAway = false;
  const tell = (away: boolean) => {
    isAway = away;
    kit.report((fact) => ({ type: 'setAway', isAway: away, fact }));
    kit.changed();
  };
  const sign = () => {
    signAtMs = time.nowMs();
    if (isAway) tell(false);
  };
  const offs = [
    ports.person.onLocalInput(sign),
    connection.on('entry', ({ event, atMs }) => {
      const isCustomers = connection.state.participants[event.by]?.side === 'customer';
      // What was said before this program came is no sign of now.
      const isNow = connection.serviceNowMs - atMs < desk.awayAfterMs;
      if (isCustomers && event.type === 'chatSent' && isNow) sign();
    }),
    time.every(LOOK_MS, () => {
      if (!isAway && time.nowMs() - signAtMs >= desk.awayAfterMs) tell(true);
    }),
  ];
  return {
    get isAway() {
      return isAway;
    },
    close: () => offs.forEach((off) => off()),
  };
}

/** A private moment holds at once, without the service; one that began on the customer's page counts, too. */
function watchPrivate(kit: Kit): { readonly isPrivate: boolean; close(): void } {
  let isPrivateHere = false;
  const isPrivate = () => isPrivateHere || kit.connection.state.slices.presence.privateAt.length > 0;
  kit.shared.isPrivate = isPrivate;
  const off = kit.ports.banner.onPrivateWanted(() => {
    // The picture may go on; nothing private begins.
    if (!isPrivate() && kit.shared.endPasswordPause()) return;
    isPrivateHere = !isPrivate();
    kit.report((fact) => ({ type: 'setPrivate', isOn: isPrivateHere, fact }));
    kit.changed();
  });
  return {
    get isPrivate() {
      return isPrivate();
    },
    close: off,
  };
}

/** What is behind another desktop is so at once, and is told as soon as this program speaks for the computer. */
function watchFront(kit: Kit): { readonly isBehind: boolean; check(): void; close(): void } {
  const { connection, ports } = kit;
  const { front } = ports;
  const isBehind = () => front !== undefined && !front.isInFront;
  let told: boolean | undefined;
  const check = () => {
    const { state, participantId } = connection;
    const now = isBehind();
    if (state.holderId !== participantId || now === (told ?? state.slices.presence.isBehind)) return;
    told = now;
    kit.report((fact) => ({ type: 'presence/tellSwitched', isBehind: now, fact }));
  };
  const off = front?.onChanged(() => {
    check();
    kit.changed();
  });
  check();
  return {
    get isBehind() {
      return isBehind();
    },
    check,
    close: () => off?.(),
  };
}
