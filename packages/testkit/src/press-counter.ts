import { loadExtensions, XConnection } from '@porch/doorstep';

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

  close(): void {
    this.#x.close();
  }
}
