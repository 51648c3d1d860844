import { TechnicianSound, type LiveConnection } from '@porch/client';
import { defineKept } from '../cli-ability.ts';
import { ownSound } from '../own-sound.ts';
import { soundCalls } from './calls.ts';

export const keptSound = defineKept({
  name: 'sound',
  calls: soundCalls,
  begin(kit) {
    let open: { readonly sound: TechnicianSound; close(): void } | undefined;
    const end = () => {
      open?.close();
      open = undefined;
    };
    kit.connection.on('entry', () => {
      if (!kit.may('hear-sound')) end();
    });
    return {
      kit,
      async listen() {
        open ??= await openHere(kit.connection);
        open.sound.setOn(true);
      },
      end,
      status: () => ({ isListening: open?.sound.isOn ?? false }),
      close: end,
    };
  },
  answer: {
    async listen({ kit, listen, end }, { isOn }) {
      if (!isOn) end();
      else {
        kit.need('hear-sound');
        await listen();
      }
      return { isListening: isOn };
    },
  },
});

async function openHere(connection: LiveConnection) {
  const own = await ownSound();
  const sound = new TechnicianSound(connection, () => own.voice.speaker());
  return {
    sound,
    close: () => {
      sound.close();
      own.close();
    },
  };
}
