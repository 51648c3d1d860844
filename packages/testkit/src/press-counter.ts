import type { InputLease } from '@porch/client';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { until } from './until.ts';

/** A key that was not counted after this long never will be, also on the worst of the lines here. */
const SURELY_DROPPED_MS = 5_000;

/** Counts what is pressed, as the X server itself tells it: by whomever, and whatever anybody says of it. */
export class PressCounter {
  readonly #x: XConnection;
  /** Key presses and button presses by devices that no hand touches. */
  presses = 0;

  private constructor(x: XConnection) {
    this.#x = x;
  }

  static async at(display: string): Promise<PressCounter> {
    const x = await XConnection.open(display, () => undefined);
    const { xinput } = await loadExtensions(x);
    const devices = await x.ask<{ deviceId: number; name: string }[]>((cb) => xinput.XIQueryDevice(0, cb));
    const synthetic = new Set(devices.filter(({ name }) => /XTEST/.test(name)).map(({ deviceId }) => deviceId));
    const counter = new PressCounter(x);
    x.client.on('event', (event) => {
      if (event.name !== 'XIRawKeyPress' && event.name !== 'XIRawButtonPress') return;
      if (event.sourceId !== undefined && synthetic.has(event.sourceId)) counter.presses++;
    });
    const { RawButtonPress = 0, RawKeyPress = 0 } = xinput.EventMask;
    xinput.XISelectEvents(x.root, [{ deviceId: 1, mask: RawButtonPress | RawKeyPress }]);
    await x.flush();
    return counter;
  }

  /**
   * Works one key, and again where it came to nothing: what is pressed in a moment in which a program stood still, or the
   * person moved their own mouse, is dropped, as it should be, and whoever works presses again.
   */
  async press(lease: InputLease): Promise<void> {
    const before = this.presses;
    let triedAtMs = -Infinity;
    await until('the key', () => {
      if (this.presses > before) return true;
      if (performance.now() - triedAtMs < SURELY_DROPPED_MS) return false;
      lease.open();
      for (const isDown of [true, false])
        if (lease.act({ act: 'key', key: 'Shift', isDown })) triedAtMs = performance.now();
      return false;
    });
  }

  close(): void {
    this.#x.close();
  }
}
