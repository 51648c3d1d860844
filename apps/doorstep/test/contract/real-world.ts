import type { LiveConnection } from '@porch/client';
import { writeWav, type PersonAtDesk, type XDesktop } from '@porch/demo';
import type { ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { XConnection } from '@porch/doorstep';
import { CopyCounter, dumpScreen, FrameTap, lookAt, PressCounter, until, type House } from '@porch/testkit';

/** A session on a real desktop whose every way out is looked at. */
export class RealWorld {
  readonly house: House;
  readonly technician: LiveConnection;
  readonly customer: LiveConnection;
  readonly person: PersonAtDesk;
  readonly tap: FrameTap;
  readonly counter: PressCounter;
  readonly copies: CopyCounter;
  readonly seen: ReturnType<typeof lookAt>;
  readonly #desktop: XDesktop;
  readonly #x: XConnection;
  readonly #display: string;
  readonly #window: number;
  readonly #gc: number;
  #drawn = 0;

  private constructor(
    parts: Omit<RealWorld, 'draw' | 'play' | 'newColours' | 'holderSeat' | 'settled' | 'close'>,
    x: XConnection,
    desktop: XDesktop,
  ) {
    this.house = parts.house;
    this.technician = parts.technician;
    this.customer = parts.customer;
    this.person = parts.person;
    this.tap = parts.tap;
    this.counter = parts.counter;
    this.copies = parts.copies;
    this.seen = parts.seen;
    this.#x = x;
    this.#desktop = desktop;
    this.#display = desktop.display;
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
    const copies = await CopyCounter.at(desktop.display);
    return new RealWorld(
      { house, technician, customer, person, tap, counter, copies, seen: lookAt(technician) },
      x,
      desktop,
    );
  }

  readonly #colours = new Map<string, { count: number; before: ReadonlySet<number> }>();
  /** How often something of this colour appeared where it was not a moment ago. */
  newColours(colour: string): number {
    const word = parseInt(colour.slice(1), 16);
    const now = new Set<number>();
    dumpScreen(this.#display).forEach((pixel, i) => pixel === word && now.add(i));
    const { count, before } = this.#colours.get(colour) ?? { count: 0, before: new Set() };
    const isNew = [...now].some((i) => !before.has(i));
    this.#colours.set(colour, { count: count + (isNew ? 1 : 0), before: now });
    return this.#colours.get(colour)?.count ?? 0;
  }

  holderSeat = (): number => this.technician.state.participants[this.technician.state.holderId ?? '']?.seat ?? 0;

  /** Something on the screen becomes another colour. */
  draw(): void {
    const { client } = this.#x;
    client.ChangeWindowAttributes(this.#window, { backgroundPixel: (++this.#drawn * 0x3f1f) & 0xffffff });
    client.UnmapWindow(this.#window);
    client.MapWindow(this.#window);
  }

  #playing: ChildProcess | undefined;
  /** A short signal on the speakers, or in front of the microphone. */
  play(where: 'speakers' | 'microphone'): void {
    if (this.#playing && this.#playing.exitCode === null) return;
    const file = join(this.#desktop.home, 'signal.wav');
    if (!existsSync(file)) writeWav(file, 0.1, (s) => 0.5 * Math.sin(2 * Math.PI * 440 * s));
    this.#playing = this.#desktop.sound?.play(file, where);
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
    this.copies.close();
    this.#x.close();
    await this.tap.close();
  }
}
