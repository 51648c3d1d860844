import type { XEvent } from 'x11';
import type { Monitor } from '@porch/host';
import type { XConnection } from '../server/connection.ts';
import type { ScreenExtensions } from '../server/extensions.ts';
import { readMonitors } from '../server/monitors-now.ts';

/** RRScreenChangeNotify, RRCrtcChangeNotify, RROutputChangeNotify. */
const CHANGES_MASK = 0b111;

/**
 * Tells the monitors, and again at every change. Events do not say that a monitor was only renamed or cut anew, so the
 * list is also looked at now and then.
 */
const LOOK_AGAIN_MS = 2_000;

export async function followMonitors(
  x: XConnection,
  { randr }: Pick<ScreenExtensions, 'randr'>,
  tell: (monitors: readonly Monitor[]) => void,
): Promise<() => void> {
  let told = '';
  let isStopped = false;
  const look = async () => {
    const monitors = await readMonitors(x, randr.majorOpcode);
    const key = JSON.stringify(monitors);
    if (isStopped || key === told) return;
    told = key;
    tell(monitors);
  };
  const lookSoon = () =>
    void look().catch((error: unknown) => {
      // A server that is gone is told elsewhere.
      if (!x.isGone && !isStopped) throw error;
    });
  const listener = (event: XEvent) => {
    const isScreenChange = event.type === randr.firstEvent || event.type === randr.firstEvent + 1;
    if (isScreenChange || (event.name === 'ConfigureNotify' && event['wid1'] === x.root)) lookSoon();
  };
  x.client.on('event', listener);
  randr.SelectInput(x.root, CHANGES_MASK);
  await look();
  const timer = setInterval(lookSoon, LOOK_AGAIN_MS);
  return () => {
    isStopped = true;
    clearInterval(timer);
    x.client.removeListener('event', listener);
  };
}
