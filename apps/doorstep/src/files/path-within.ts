import { realpath } from 'node:fs/promises';
import { resolve, sep } from 'node:path';

/** The real path of what a technician asks for, if it lies within `home`. Links that lead out are followed and refused. */
export async function pathWithin(home: string, wanted: string): Promise<string> {
  const root = await realpath(home);
  const path = await realpath(resolve(root, wanted.replace(/^~(?=\/|$)/, '.')));
  if (path !== root && !path.startsWith(root + sep))
    throw new Error('it is outside the home folder of the person here');
  return path;
}
