import type { XInput } from 'x11';
import type { XConnection } from './connection.ts';
import { realDevices } from './input-events.ts';

const ofConnection = new WeakMap<XConnection, Promise<OwnDevices>>();

/**
 * The person's own mice and keyboards, as they are now. Any program can press something through the server, and make
 * devices of its own to do so: what comes from a device that is not known to be a person's own is not theirs.
 */
export class OwnDevices {
  readonly #x: XConnection;
  readonly #xinput: XInput;
  #own: ReadonlySet<number> = new Set();

  private constructor(x: XConnection, xinput: XInput) {
    this.#x = x;
    this.#xinput = xinput;
  }

  /** Those of a display; followed from then on for as long as the connection lasts. */
  static async of(x: XConnection, xinput: XInput): Promise<OwnDevices> {
    const known = ofConnection.get(x) ?? OwnDevices.#begin(x, xinput);
    ofConnection.set(x, known);
    return known;
  }
  static async #begin(x: XConnection, xinput: XInput): Promise<OwnDevices> {
    const own = new OwnDevices(x, xinput);
    x.client.on('event', (event) => {
      if (event.name === 'XIHierarchyChanged') own.#look().catch(() => undefined); // The server went; whoever follows it knows.
    });
    xinput.XISelectEvents(x.root, [{ deviceId: 0, mask: xinput.EventMask['HierarchyChanged'] ?? 0 }]);
    await own.#look();
    return own;
  }

  /** Whether what this device does is the person's: one that was plugged in a moment ago is not known yet. */
  has(deviceId: number | undefined): boolean {
    return deviceId !== undefined && this.#own.has(deviceId);
  }

  async #look(): Promise<void> {
    this.#own = new Set((await realDevices(this.#x, this.#xinput)).map(({ deviceId }) => deviceId));
  }
}
