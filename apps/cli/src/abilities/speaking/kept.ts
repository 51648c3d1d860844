import { technicianTalk, type Talk, RefusedThere } from '@porch/client';
import { participantAt } from '@porch/core';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { ownSound } from '../own-sound.ts';
import { speakingCalls } from './calls.ts';

/** What `porch status` says of it: my microphone, and who else is heard. */
export interface SpeakingNow {
  readonly microphone: 'off' | 'open' | 'muted' | 'none';
  readonly others: readonly { readonly name: string | null; readonly microphone: 'open' | 'muted' | 'none' }[];
}

export const keptSpeaking = defineKept({
  name: 'speaking',
  calls: speakingCalls,
  begin(kit) {
    let open: { readonly talk: Talk; close(): void } | undefined;
    const end = () => {
      open?.close();
      open = undefined;
    };
    kit.connection.on('entry', () => {
      if (!kit.may('speak-together')) end();
      open?.talk.changed();
    });
    const now = (): SpeakingNow => {
      const { microphone = 'off', others = [] } = open?.talk.state ?? {};
      const nameAt = (seat: number) => {
        const { state } = kit.connection;
        const who = participantAt(state, seat);
        return who?.side === 'customer' ? state.customerName : who?.name;
      };
      return {
        microphone,
        others: others.map((one) => ({ name: nameAt(one.seat) ?? null, microphone: one.microphone })),
      };
    };
    return {
      kit,
      now,
      end,
      async speak() {
        open ??= await openHere(kit);
        return open.talk;
      },
      status: () => ({ speaking: now() }),
      close: end,
    };
  },
  answer: {
    async speak({ kit, speak, end, now }, { how }) {
      if (how === 'off') end();
      else {
        kit.need('speak-together');
        const talk = await speak();
        talk.changed();
        talk.open();
        talk.setMuted(how === 'muted');
        if (talk.state.microphone === 'none') throw new RefusedThere('there is no microphone here; you hear them');
      }
      return now();
    },
  },
});

async function openHere({ connection }: KeeperKit) {
  const own = await ownSound();
  const talk = technicianTalk(connection, own.voice);
  return {
    talk,
    close: () => {
      talk.close();
      own.close();
    },
  };
}
