import type { XTest } from 'x11';
import { keysymOfCharacter, keysymOfName } from './key-names.ts';
import type { XConnection } from '../server/connection.ts';
import {
  LENT_PROPERTY,
  PRESSED_PROPERTY,
  KEY_PRESS,
  BUTTON_PRESS,
  releasePressed,
  returnLentKeycodes,
} from './left-behind.ts';

const MOTION = 6;
/** Atom numbers fixed by the protocol. */
const ATOM_INTEGER = 19;
const SHIFT = 0xffe1;
const buttonNumbers = { left: 1, middle: 2, right: 3 } as const;
/** A keycode that was lent keeps its meaning this long after its last use: programs read the map late. */
const LENT_MS = 300;
/** Typed at once, before the server has to have answered and whoever holds the lease is asked again. */
const PIECE_CHARACTERS = 8;

interface Place {
  readonly keycode: number;
  readonly isShifted: boolean;
}
interface Loan {
  readonly keycode: number;
  readonly keysyms: readonly [number, number];
  usedAtMs: number;
}

/** Lets go for us if we die: hears what is down before it happens, and while it is not there nothing new is pressed. */
export interface PressGuard {
  readonly isThere: boolean;
  report(what: 'key' | 'button', number: number, isDown: boolean): void;
}

/** Presses keys and buttons through XTEST. Characters that the keyboard layout lacks borrow a spare keycode. */
export class Injector {
  readonly #x: XConnection;
  readonly #xtest: XTest;
  readonly #guard: PressGuard;
  readonly #lentAtom: number;
  readonly #pressedAtom: number;
  readonly #keysDown = new Map<string, number>();
  readonly #codesDown = new Set<number>();
  readonly #buttonsDown = new Set<number>();
  #places = new Map<number, Place>();
  #spares: number[] = [];
  #perKeycode = 2;
  #loans: Loan[] = [];
  #restX = 0;
  #restY = 0;
  #isMapStale = true;
  #ownChanges = 0;
  #work: Promise<void> = Promise.resolve();

  private constructor(
    x: XConnection,
    xtest: XTest,
    { lentAtom, pressedAtom }: { lentAtom: number; pressedAtom: number },
    guard: PressGuard,
  ) {
    this.#x = x;
    this.#xtest = xtest;
    this.#lentAtom = lentAtom;
    this.#pressedAtom = pressedAtom;
    this.#guard = guard;
    x.client.on('event', (event) => {
      if (event.name !== 'MappingNotify') return;
      if (this.#ownChanges > 0) this.#ownChanges--;
      else this.#isMapStale = true;
    });
  }

  static async create(x: XConnection, xtest: XTest, guard: PressGuard): Promise<Injector> {
    const atoms = { lentAtom: await x.atom(LENT_PROPERTY), pressedAtom: await x.atom(PRESSED_PROPERTY) };
    const injector = new Injector(x, xtest, atoms, guard);
    await releasePressed(x, xtest);
    await returnLentKeycodes(x);
    await injector.#readMap();
    return injector;
  }

  move(x: number, y: number): void {
    this.#xtest.FakeInput(MOTION, 0, 0, this.#x.root, Math.round(x), Math.round(y));
  }

  button(name: keyof typeof buttonNumbers, isDown: boolean): void {
    const number = buttonNumbers[name];
    // What was let go already, because the person took over, is not let go again.
    if (isDown || this.#buttonsDown.has(number)) this.#button(number, isDown);
  }

  /** X has a button for each direction of the wheel, and one press for each step; parts of a step are kept. */
  wheel(stepsX: number, stepsY: number): void {
    this.#restX += stepsX;
    this.#restY += stepsY;
    const [wholeX, wholeY] = [Math.trunc(this.#restX), Math.trunc(this.#restY)];
    this.#restX -= wholeX;
    this.#restY -= wholeY;
    const turn = (steps: number, [less, more]: [number, number]) => {
      for (let i = 0; i < Math.abs(steps); i++) {
        this.#button(steps < 0 ? less : more, true);
        this.#button(steps < 0 ? less : more, false);
      }
    };
    turn(wholeY, [4, 5]);
    turn(wholeX, [6, 7]);
  }

  key(key: string, isDown: boolean, may: () => boolean): Promise<void> {
    return this.#inTurn(async () => {
      const held = this.#keysDown.get(key);
      if (!isDown) {
        if (held === undefined) return;
        this.#keysDown.delete(key);
        this.#code(held, false);
        return;
      }
      const named = keysymOfName[key];
      if (named === undefined && [...key].length !== 1) return;
      const keysym = named ?? keysymOfCharacter(key);
      await this.#makeRoomFor([keysym], may);
      const place = this.#placeOf(keysym);
      // Asked here, in the tick that presses: while room was made the person may have taken it all back.
      if (!place || !may()) return;
      if (!this.#guard.isThere) return;
      this.#keysDown.set(key, place.keycode);
      // A modifier is itself; a character may need another shift than the technician's layout has just now.
      if (named !== undefined) this.#code(place.keycode, true);
      else this.#withShift(place.isShifted, () => this.#code(place.keycode, true));
    });
  }

  type(text: string, may: () => boolean): Promise<number> {
    let typed = 0;
    return this.#inTurn(async () => {
      const keysyms = [...text.replace(/\r\n?/g, '\n')].map(keysymOfCharacter);
      const most = Math.max(1, Math.min(PIECE_CHARACTERS, this.#spares.length));
      for (let at = 0; at < keysyms.length; at += most) {
        const part = keysyms.slice(at, at + most);
        await this.#makeRoomFor(part, may);
        // What was typed before has been pressed; nothing more of ours waits in the server or on the way to it.
        await this.#x.flush();
        for (const keysym of part) {
          if (!may()) return;
          typed++;
          const place = this.#placeOf(keysym);
          if (!place) continue;
          this.#withShift(place.isShifted, () => {
            this.#code(place.keycode, true);
            this.#code(place.keycode, false);
          });
        }
      }
    }).then(() => typed);
  }

  releaseAll(): void {
    if (this.#x.isGone) return;
    for (const keycode of [...this.#codesDown]) this.#code(keycode, false);
    for (const button of [...this.#buttonsDown]) this.#button(button, false);
    this.#keysDown.clear();
  }

  async close(): Promise<void> {
    this.releaseAll();
    if (!this.#x.isGone) await returnLentKeycodes(this.#x);
  }

  #inTurn(work: () => Promise<void>): Promise<void> {
    this.#work = this.#work.then(work, work);
    return this.#work;
  }

  #code(keycode: number, isDown: boolean): void {
    if (isDown && !this.#guard.isThere) return;
    this.#inSafeOrder(
      isDown,
      () => {
        this.#guard.report('key', keycode, isDown);
        if (isDown) this.#codesDown.add(keycode);
        else this.#codesDown.delete(keycode);
      },
      () => this.#xtest.FakeInput(isDown ? KEY_PRESS : KEY_PRESS + 1, keycode, 0, 0, 0, 0),
    );
  }

  #button(number: number, isDown: boolean): void {
    if (isDown && !this.#guard.isThere) return;
    this.#inSafeOrder(
      isDown,
      () => {
        this.#guard.report('button', number, isDown);
        if (isDown) this.#buttonsDown.add(number);
        else this.#buttonsDown.delete(number);
      },
      () => this.#xtest.FakeInput(isDown ? BUTTON_PRESS : BUTTON_PRESS + 1, number, 0, 0, 0, 0),
    );
  }

  /**
   * What stands on the root window is never less than what is down, wherever our connection is cut: it is told before
   * something is pressed, and after it was let go.
   */
  #inSafeOrder(isDown: boolean, note: () => void, act: () => void): void {
    if (!isDown) act();
    note();
    this.#notePressed();
    if (isDown) act();
  }

  #notePressed(): void {
    const pressed = Buffer.from([...this.#codesDown, ...this.#buttonsDown]);
    this.#x.client.ChangeProperty(0, this.#x.root, this.#pressedAtom, ATOM_INTEGER, 8, pressed);
  }

  #withShift(wanted: boolean, press: () => void): void {
    const shift = this.#places.get(SHIFT)?.keycode;
    if (shift === undefined) return press();
    const isHeld = this.#codesDown.has(shift);
    const isShortcut = this.#keysDown.has('Control') || this.#keysDown.has('Alt') || this.#keysDown.has('Meta');
    if (isHeld === wanted || isShortcut) return press();
    this.#code(shift, wanted);
    press();
    this.#code(shift, isHeld);
  }

  #placeOf(keysym: number): Place | undefined {
    const own = this.#places.get(keysym);
    if (own) return own;
    const loan = this.#loans.find((l) => l.keysyms.includes(keysym));
    if (!loan) return undefined;
    loan.usedAtMs = performance.now();
    return { keycode: loan.keycode, isShifted: loan.keysyms[0] !== keysym };
  }

  async #makeRoomFor(keysyms: readonly number[], may: () => boolean): Promise<void> {
    if (this.#isMapStale) await this.#readMap();
    const missing = [...new Set(keysyms)].filter((keysym) => !this.#placeOf(keysym));
    if (!missing.length) return;
    for (const keysym of missing) {
      const keycode = await this.#borrow();
      if (keycode === undefined || !may()) return;
      this.#loans.push({ keycode, keysyms: [keysym, keysym], usedAtMs: performance.now() });
      this.#ownChanges++;
      this.#x.client.ChangeKeyboardMapping(keycode, this.#perKeycode, new Array<number>(this.#perKeycode).fill(keysym));
    }
    this.#x.client.ChangeProperty(
      0,
      this.#x.root,
      this.#lentAtom,
      ATOM_INTEGER,
      8,
      Buffer.from(this.#loans.map((l) => l.keycode)),
    );
    await this.#x.flush();
  }

  /** A spare keycode, or the one not used for longest once no program can still be reading its old meaning. */
  async #borrow(): Promise<number | undefined> {
    const free = this.#spares.find((keycode) => !this.#loans.some((l) => l.keycode === keycode));
    if (free !== undefined) return free;
    const oldest = [...this.#loans].sort((a, b) => a.usedAtMs - b.usedAtMs)[0];
    if (!oldest) return undefined;
    const waitMs = oldest.usedAtMs + LENT_MS - performance.now();
    if (waitMs > 0) await new Promise((resolve) => setTimeout(resolve, waitMs));
    this.#loans = this.#loans.filter((l) => l !== oldest);
    return oldest.keycode;
  }

  async #readMap(): Promise<void> {
    const { min_keycode: first, max_keycode: last } = this.#x.client.display;
    const map = await this.#x.ask<number[][]>((cb) => this.#x.client.GetKeyboardMapping(first, last - first + 1, cb));
    this.#isMapStale = false;
    this.#perKeycode = map[0]?.length ?? 2;
    this.#places = new Map();
    this.#spares = [];
    map.forEach((keysyms, i) => {
      const keycode = first + i;
      if (this.#loans.some((l) => l.keycode === keycode)) this.#spares.push(keycode);
      else if (!keysyms.some((k) => k)) this.#spares.push(keycode);
      else
        for (const level of [0, 1]) {
          const keysym = keysyms[level];
          if (keysym && !this.#places.has(keysym)) this.#places.set(keysym, { keycode, isShifted: level === 1 });
        }
    });
  }
}
