import { TechnicianHandsOff, type LiveConnection, type LocalPicture } from '@porch/client';
import type { Permission, Resting } from '@porch/core';
import type { PersonAtDesk } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { processorMs, sleep, until } from './bench-house.ts';
import { KEYS_NEED } from './key-timer.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const ESCAPE = 9;
const LETTER_A = 38;
const CHANGES = 60;
/** A window that somebody works in. */
const BOX = { x: 400, y: 300, width: 600, height: 400 };
const [FIRST, KEY_PRESS] = [0x204060, 1];

/** How soon hands and eyes rest, and are theirs again; and what the picture beneath a cover costs. */
export async function handsOffRows(
  technician: LiveConnection,
  picture: LocalPicture,
  { display, person, doorstepPid }: { display: string; person: PersonAtDesk; doorstepPid: number },
  agree: (permission: Permission) => Promise<unknown>,
): Promise<Row[]> {
  await agree(KEYS_NEED);
  const handsOff = new TechnicianHandsOff(technician);
  const isResting = (what: Resting) => handsOff.resting.some((one) => one.what === what);
  const window = await BenchWindow.open(display, picture, doorstepPid);
  const plain = await window.changes(FIRST);

  await agree('cover-screen');
  await until('the cover', () => isResting('screen'));
  const beneath = await window.changes(FIRST + 1_000);

  await agree('block-input');
  const grantedAt = performance.now();
  await until('keys to rest', () => isResting('input'));
  const beginMs = performance.now() - grantedAt;
  const liftMs = await window.untilKeysWork(person);
  handsOff.close();
  window.close();
  const ms = ({ p50, p95 }: { p50: number; p95: number }) => `${p50.toFixed(1)} / ${p95.toFixed(1)} ms`;
  return [
    {
      what: 'hands off: from the yes as the technician hears it until keys rest; from Escape until they work',
      value: `${beginMs.toFixed(0)} ms; ${liftMs.toFixed(1)} ms`,
      aim: '–',
    },
    {
      what: 'hands off: a window of 600×400 that changes, until the technician has it, beneath a cover / without one, median / p95',
      value: `${ms(beneath)} / ${ms(plain)}, ${(beneath.p50 / plain.p50).toFixed(2)} of the time`,
      aim: '–',
    },
    {
      what: 'hands off: Doorstep meanwhile, ten changes a second, beneath a cover / without one',
      value: `${beneath.percent.toFixed(1)} / ${plain.percent.toFixed(1)} % of a core`,
      aim: '–',
    },
  ];
}

/** A window of another program, whose changes are waited for at the technician's, and which hears what is typed. */
class BenchWindow {
  readonly #x: XConnection;
  readonly #window: number;
  readonly #picture: LocalPicture;
  readonly #doorstepPid: number;
  #heard = 0;

  private constructor(x: XConnection, picture: LocalPicture, doorstepPid: number) {
    this.#x = x;
    this.#picture = picture;
    this.#doorstepPid = doorstepPid;
    this.#window = x.client.AllocID();
    x.client.CreateWindow(this.#window, x.root, BOX.x, BOX.y, BOX.width, BOX.height, 0, 0, 1, 0, {
      overrideRedirect: 1,
      backgroundPixel: FIRST,
      eventMask: KEY_PRESS,
    });
    x.client.on('event', (event) => event.name === 'KeyPress' && this.#heard++);
    x.client.MapWindow(this.#window);
  }
  static async open(display: string, picture: LocalPicture, doorstepPid: number): Promise<BenchWindow> {
    return new BenchWindow(await XConnection.open(display, () => undefined), picture, doorstepPid);
  }

  /** From a change of the window until the technician has it, and what Doorstep spends on it. */
  async changes(from: number) {
    const waits: number[] = [];
    const [before, startedAt] = [processorMs(this.#doorstepPid), performance.now()];
    for (let i = 1; i <= CHANGES; i++) {
      await sleep(100);
      const beganAt = performance.now();
      await this.#paint(from + i);
      while (this.#seen() !== from + i) await new Promise((resolve) => setImmediate(resolve));
      waits.push(performance.now() - beganAt);
    }
    const percent = ((processorMs(this.#doorstepPid) - before) / (performance.now() - startedAt)) * 100;
    return { p50: quantile(waits, 0.5) ?? 0, p95: quantile(waits, 0.95) ?? 0, percent };
  }

  async untilKeysWork(person: PersonAtDesk): Promise<number> {
    this.#x.client.SetInputFocus(this.#window, 1);
    await this.#x.flush();
    const startedAt = performance.now();
    await person.tapKey(ESCAPE);
    for (this.#heard = 0; this.#heard === 0;) {
      await person.tapKey(LETTER_A);
      await this.#x.flush();
    }
    return performance.now() - startedAt;
  }

  close(): void {
    this.#x.close();
  }

  async #paint(colour: number): Promise<void> {
    this.#x.client.ChangeWindowAttributes(this.#window, { backgroundPixel: colour });
    this.#x.client.ClearArea(this.#window, 0, 0, 0, 0, 0);
    await this.#x.flush();
  }
  #seen(): number {
    const { rgba, grid } = this.#picture.viewer.picture;
    const at = ((BOX.y + 200) * (grid?.width ?? 0) + BOX.x + 300) * 4;
    return ((rgba[at] ?? 0) << 16) | ((rgba[at + 1] ?? 0) << 8) | (rgba[at + 2] ?? 0);
  }
}
