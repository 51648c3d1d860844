import type { House } from './house.ts';
import { until } from './until.ts';

let marks = 0;

/** Sets at the terminal what `porch-admin setting set` takes, and waits until the service goes by it. Throws what it said. */
export async function setInForce(house: House, ...setting: readonly string[]): Promise<void> {
  const set = async (...args: readonly string[]) => {
    const { code, err } = await house.admin(['setting', 'set', ...args]);
    if (code !== 0) throw new Error(`setting set ${args.join(' ')}: ${err}`);
  };
  if (setting.length) await set(...setting);
  // Settings are read together: once a later one counts, everything that was set before does.
  const mark = `555-${String(++marks).padStart(4, '0')}`;
  await set('desk-phone', mark);
  await until('what was set to count', async () => {
    const door = await fetch(`${house.url}/api/door`);
    return ((await door.json()) as { deskPhone: string }).deskPhone === mark;
  });
}
