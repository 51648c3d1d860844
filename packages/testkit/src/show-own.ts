import { TechnicianOwnScreen, type LiveConnection } from '@porch/client';
import { seal, deflate } from '@porch/client/node';
import { ownScreenSender, type ScreenSource } from '@porch/host';

/** What a technician's program does to show a screen of its own. */
export function showsOwn(technician: LiveConnection) {
  const own = new TechnicianOwnScreen(technician);
  const troubles: string[] = [];
  return {
    own,
    troubles,
    show: (screen: ScreenSource) =>
      own.begin('window', (line) =>
        ownScreenSender(
          technician,
          line,
          { screen, codecs: { deflate, seal, encodeJpeg: undefined } },
          (error, what) => void troubles.push(`${what}: ${String(error)}`),
        ),
      ),
  };
}
