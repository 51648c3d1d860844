import { InputLease, type LiveConnection, type LocalPicture } from '@porch/client';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';

/** Without it nothing can be pressed. */
export const KEYS_NEED = 'control-input';
const GAP_MS = 40;
const LOST_MS = 2_000;

/** How long keys take from a technician's program to the X server there. */
export class KeyTimer {
  readonly #x: XConnection;
  readonly #lease: InputLease;
  #pressed: () => void = () => undefined;

  private constructor(x: XConnection, lease: InputLease) {
    this.#x = x;
    this.#lease = lease;
    x.client.on('event', (event) => event.name === 'XIRawKeyPress' && this.#pressed());
  }

  static async open(technician: LiveConnection, picture: LocalPicture, display: string): Promise<KeyTimer> {
    const x = await XConnection.open(display, () => undefined);
    const { xinput } = await loadExtensions(x);
    xinput.XISelectEvents(x.root, [{ deviceId: 1, mask: xinput.EventMask['RawKeyPress'] ?? 0 }]);
    await x.flush();
    const lease = new InputLease(technician, () => picture.aim);
    lease.open();
    await until('a lease', () => lease.state.name === 'open');
    return new KeyTimer(x, lease);
  }

  /** The 95th percentile, in milliseconds, of keys pressed one after the other until `isOver`. */
  async p95(isOver: () => boolean): Promise<number> {
    const waits: number[] = [];
    while (!isOver()) {
      const startedAt = performance.now();
      const there = new Promise<void>((resolve) => (this.#pressed = resolve));
      for (const isDown of [true, false]) this.#lease.act({ act: 'key', key: 'Shift', isDown });
      await Promise.race([there, sleep(LOST_MS)]);
      waits.push(performance.now() - startedAt);
      await sleep(GAP_MS);
    }
    return quantile(waits, 0.95) ?? 0;
  }

  close(): void {
    this.#lease.close();
    this.#x.close();
  }
}
