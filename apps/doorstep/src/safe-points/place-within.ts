import { PointRefused } from '@porch/host';
import { realpath } from 'node:fs/promises';
import { basename, dirname, resolve, sep } from 'node:path';

/**
 * The place of what may be in a safe point, whether anything is there or not. What it hangs on is followed: it lies within
 * the home of the person here, and is not that itself, nor Doorstep's own. Rejects with PointRefused.
 */
export async function placeWithin(home: string, wanted: string, own: readonly string[]): Promise<string> {
  const root = await realpath(home);
  const asked = resolve(root, wanted.replace(/^~(?=\/|$)/, '.'));
  const place = resolve(await nearest(dirname(asked)), basename(asked));
  if (!place.startsWith(root + sep)) throw new PointRefused('it lies outside the home folder of the person here');
  for (const folder of own) {
    const ours = await nearest(folder);
    if (place === ours || place.startsWith(ours + sep) || ours.startsWith(place + sep))
      throw new PointRefused('it belongs to Doorstep');
  }
  return place;
}

/** The real path of a folder that may not be there, by the nearest one above it that is. */
async function nearest(folder: string): Promise<string> {
  try {
    return await realpath(folder);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT' || dirname(folder) === folder) throw error;
    return resolve(await nearest(dirname(folder)), basename(folder));
  }
}
