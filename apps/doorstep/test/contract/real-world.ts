import type { LiveConnection } from '@porch/client';
import type { PersonAtDesk, XDesktop } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { FrameTap, lookAt, PressCounter, until, type House } from '@porch/testkit';

/** A session on a real desktop whose every way out is looked at. */
export class RealWorld {
  readonly house: House;
  readonly technician: LiveConnection;
  readonly customer: LiveConnection;
  readonly person: PersonAtDesk;
  readonly tap: FrameTap;
  readonly counter: PressCounter;
  readonly seen: ReturnType<typeof lookAt>;
  readonly #x: XConnection;
  readonly #window: number;
  readonly #gc: number;
  #drawn = 0;

  private constructor(parts: Omit<RealWorld, 'draw' | 'holderSeat' | 'settled' | 'close'>, x: XConnection) {
    this.house = parts.house;
    this.technician = parts.technician;
    this.customer = parts.customer;
    this.person = parts.person;
    this.tap = parts.tap;
    this.counter = parts.counter;
    this.seen = parts.seen;
    this.#x = x;
    this.#window = x.client.AllocID();
    this.#gc = x.client.AllocID();
    x.client.CreateWindow(this.#window, x.root, 40, 640, 64, 64, 0, 0, 0, 0, {
      backgroundPixel: 0,
      overrideRedirect: 1,
    });
    x.client.MapWindow(this.#window);
    x.client.CreateGC(this.#gc, this.#window, {});
  }

  static async begin(house: House, desktop: XDesktop): Promise<RealWorld> {
    const { technician, customer, link } = await house.sessionUnderWay();
    const tap = await FrameTap.open(house.url);
    const { person } = await house.withDoorstep(link, { desktop, over: tap.url });
    await until('Doorstep', () => technician.state.holderId);
    const x = await XConnection.open(desktop.display, () => undefined);
    const counter = await PressCounter.at(desktop.display);
    return new RealWorld({ house, technician, customer, person, tap, counter, seen: lookAt(technician) }, x);
  }

  holderSeat = (): number => this.technician.state.participants[this.technician.state.holderId ?? '']?.seat ?? 0;

  /** Something on the screen becomes another colour. */
  draw(): void {
    const { client } = this.#x;
    client.ChangeWindowAttributes(this.#window, { backgroundPixel: (++this.#drawn * 0x3f1f) & 0xffffff });
    client.UnmapWindow(this.#window);
    client.MapWindow(this.#window);
  }

  /** What this number comes to once nothing is on its way any longer: the same after the desktop has answered, many times. */
  async settled(read: () => number): Promise<number> {
    let [last, same] = [-1, 0];
    await until('it to come to rest', async () => {
      await this.#x.flush();
      same = read() === last ? same + 1 : 0;
      last = read();
      return same >= 8;
    });
    return last;
  }

  async close(): Promise<void> {
    this.counter.close();
    this.#x.close();
    await this.tap.close();
  }
}
