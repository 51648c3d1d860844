import { startDesktop, theirComputer, type XDesktop } from '@porch/demo';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { inject } from 'vitest';
import type { House } from './house.ts';

/** Somebody's computer in a house: it reaches the service alone, and is gone with the house. */
export async function computerOf(
  house: House,
  login: 'bettina' | 'samir' = 'bettina',
  programs: 'all' | 'none' | 'editor' = 'none',
  others: readonly ('bettina' | 'samir')[] = [],
): Promise<XDesktop & { readonly computer: NonNullable<XDesktop['computer']> }> {
  const folder = join(house.folder, `computer-${randomBytes(3).toString('hex')}`);
  const desktop = await startDesktop(house.processes, {
    ...{ name: 'a test', home: join(folder, 'home'), programs },
    computer: theirComputer(login, {
      folder,
      home: join(folder, 'home'),
      dist: join(inject('root'), 'dist'),
      ports: [Number(new URL(house.url).port)],
      others,
    }),
  });
  if (!desktop.computer) throw new Error('a desktop without its computer');
  return { ...desktop, computer: desktop.computer };
}
