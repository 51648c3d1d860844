import { startDesktop, type Camera, type XDesktop } from '@porch/demo';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { inject } from 'vitest';
import type { House } from './house.ts';

/** How the stand-in camera is started, as it was built. */
export const cameraProgram = (): string[] => [process.execPath, join(inject('root'), 'dist', 'camera.mjs')];

/** A desktop with a stand-in camera, which points at the plate of a printer. */
export async function desktopWithCamera(
  house: House,
  name: string,
): Promise<{ readonly desktop: XDesktop; readonly camera: Camera }> {
  const home = join(house.folder, `home-${randomBytes(3).toString('hex')}`);
  const desktop = await startDesktop(house.processes, { name, home, programs: 'none', camera: cameraProgram() });
  if (!desktop.camera) throw new Error('a desktop without its camera');
  return { desktop, camera: desktop.camera };
}
