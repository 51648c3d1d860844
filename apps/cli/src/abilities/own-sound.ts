import { RefusedThere } from '@porch/client';
import type { VoicePort } from '@porch/client';
import { realClock } from '@porch/wire';

/** The speakers and the microphone of whoever sits at this terminal. Throws with what to do when there are none. */
export async function ownSound(): Promise<{ readonly voice: VoicePort; close(): void }> {
  const { ServerVoice, SoundServer } = await import('@porch/sound-server');
  const server = await SoundServer.open(realClock);
  if (!server.pulse) {
    server.close();
    throw new RefusedThere(
      'there is no sound server here: start PulseAudio or PipeWire, or say where it is with PULSE_SERVER',
    );
  }
  const voice = new ServerVoice(server, realClock);
  return {
    voice,
    close: () => {
      voice.close();
      server.close();
    },
  };
}
