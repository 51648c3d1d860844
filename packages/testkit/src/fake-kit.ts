import { host } from '@porch/words/host';
import { realClock, realRandomness, type Clock } from '@porch/wire';
import type { LiveConnection } from '@porch/client';
import type { SessionCommand } from '@porch/core';
import { GrantBook, Held, nothingShared, type Answer, type HostPorts, type Kit, type Question } from '@porch/host';

/** A kit with nothing behind it: what is asked is answered with yes, what is reported is kept, nothing is paused. */
export function fakeKit(
  connection: LiveConnection,
  grants: GrantBook,
  ports: Partial<HostPorts> = {},
  answer: (question: Question) => Promise<Answer | undefined> = () => Promise.resolve({ what: 'yes', choices: [] }),
  time: Clock = realClock,
): { kit: Kit; facts: SessionCommand[]; stops: string[]; world: { isAsking: boolean; pausedBy: string | undefined } } {
  const facts: SessionCommand[] = [];
  const stops: string[] = [];
  const world = { isAsking: false, pausedBy: undefined as string | undefined };
  const held = new Held(
    grants,
    time,
    () => connection.serviceNowMs,
    () => undefined,
  );
  held.pausedBy = () => world.pausedBy;
  const never = () => () => undefined;
  const kit: Kit = {
    connection,
    held,
    ports: {
      person: { ask: answer, onLocalInput: never },
      banner: {
        showBanner: () => Promise.resolve(),
        onStop: never,
        onHideWanted: never,
        onPrivateWanted: never,
        onFilesWanted: never,
        onMuteWanted: never,
        onDrawWanted: never,
        onTakeBackWanted: never,
      },
      ...ports,
    },
    shared: nothingShared(),
    log: { info: () => undefined, warn: () => undefined, error: () => undefined },
    time,
    words: host.en,
    desk: {
      deskName: 'Marrowick Ferries',
      deskPhone: '',
      noticeVersion: '1',
      awayAfterMs: 60_000,
      controlNeedsComparedWords: false,
      maxClipboardBytes: 64 * 1024 * 1024,
      refusedFileKinds: [],
      untouchedPrograms: [],
      maxSafePointBytes: 1e6,
      rightsMs: 60_000,
      carefulLabels: [],
      maxFileBytes: 256 * 1024 * 1024,
    },
    random: realRandomness,
    inTurn: (work) => work(answer),
    ask: answer,
    get isAsking() {
      return world.isAsking;
    },
    askAtTheDoor: () => Promise.resolve(),
    report: (make) => void facts.push(make(facts.length + 1)),
    withdraw: (participantId, permission, why) => {
      const technician = connection.state.participants[participantId];
      if (technician) grants.drop(permission, technician.signKey);
      facts.push({ type: 'withdrawPermission', participantId, permission, why, fact: facts.length + 1 });
    },
    stop: (why) => void stops.push(why),
    isStopped: false,
    changed: () => held.follow(),
    shown: () => Promise.resolve(),
  };
  return { kit, facts, stops, world };
}
