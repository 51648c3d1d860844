import { TechnicianCamera, type CameraNow } from '@porch/client';
import { writeFile } from 'node:fs/promises';
import { defineKept } from '../cli-ability.ts';
import { cameraCalls } from './calls.ts';
import { standingUpright } from './upright.ts';

/** A camera that has not said how it stands by then is asked for its picture as it is. */
const STANDS_MS = 10_000;

export const keptCamera = defineKept({
  name: 'camera',
  calls: cameraCalls,
  begin(kit) {
    const camera = new TechnicianCamera(kit.connection, () => undefined);
    camera.listeners.on('now', () => kit.changed());
    return { kit, camera, close: () => camera.close() };
  },
  answer: {
    async camera({ kit, camera }, { file, hasLight, turn }) {
      kit.need('see-camera');
      const until = (isSo: (now: CameraNow) => boolean) => kit.until(() => isSo(camera.now), STANDS_MS);
      try {
        if (hasLight) {
          // The light is on only while somebody looks.
          camera.setOn(true);
          await until(({ is }) => is === 'open' || is === 'none');
          camera.setLight(true);
          await until(({ isLightOn, hasLight: has }) => isLightOn || !has);
        }
        const isLit = camera.now.isLightOn;
        const { width, height, jpeg } = await camera.take();
        await writeFile(file, standingUpright(jpeg, turn), { mode: 0o600 });
        return { file, width, height, isLit };
      } finally {
        camera.setOn(false);
      }
    },
  },
});
