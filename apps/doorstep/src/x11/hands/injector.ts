import type { XTest } from 'x11';
import { CAPS_LOCK, keysymOfCharacter, keysymOfName, SHIFT, THIRD_LEVEL } from './key-names.ts';
import { KeyPlaces, type Place } from './key-places.ts';
import type { XConnection } from '../server/connection.ts';
import { LentKeycodes } from './lent-keycodes.ts';
import { PRESSED_PROPERTY, KEY_PRESS, BUTTON_PRESS, releasePressed, returnLentKeycodes } from './left-behind.ts';

const MOTION = 6;
/** Atom numbers fixed by the protocol. */
const ATOM_INTEGER = 19;
/** In the state of the keyboard: that letters are locked to be large, and which of up to four groups is chosen. */
const LOCK_MASK = 2;
const GROUP_SHIFT = 13;
const buttonNumbers = { left: 1, middle: 2, right: 3 } as const;
/** Typed at once, before the server has to have answered and whoever holds the lease is asked again. */
const PIECE_CHARACTERS = 8;

/** What the person chose at their keyboard, and what decides with it which character a key makes. */
interface KeyboardNow {
  readonly group: number;
  readonly isLocked: boolean;
}

const ANY_KEYBOARD: KeyboardNow = { group: 0, isLocked: false };

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
  readonly #lent: LentKeycodes;
  readonly #pressedAtom: number;
  readonly #keysDown = new Map<string, number>();
  readonly #codesDown = new Set<number>();
  readonly #buttonsDown = new Set<number>();
  #places = new KeyPlaces([], 0, []);
  #restX = 0;
  #restY = 0;
  #isMapStale = true;
  #work: Promise<void> = Promise.resolve();

  private constructor(
    x: XConnection,
    xtest: XTest,
    { lent, pressedAtom }: { lent: LentKeycodes; pressedAtom: number },
    guard: PressGuard,
  ) {
    this.#x = x;
    this.#xtest = xtest;
    this.#lent = lent;
    this.#pressedAtom = pressedAtom;
    this.#guard = guard;
    x.client.on('event', (event) => {
      if (event.name === 'MappingNotify' && !lent.wasOurs()) this.#isMapStale = true;
    });
  }

  static async create(x: XConnection, xtest: XTest, guard: PressGuard): Promise<Injector> {
    const own = { lent: await LentKeycodes.on(x), pressedAtom: await x.atom(PRESSED_PROPERTY) };
    const injector = new Injector(x, xtest, own, guard);
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
      // Where a named key stands depends on nothing that the person chose.
      const now = named === undefined ? await this.#keyboardNow() : ANY_KEYBOARD;
      await this.#makeRoomFor([keysym], now, may);
      const place = this.#placeOf(keysym, now);
      // Asked here, in the tick that presses: while room was made the person may have taken it all back.
      if (!place || !may()) return;
      if (!this.#guard.isThere) return;
      this.#keysDown.set(key, place.keycode);
      const press = () => this.#code(place.keycode, true);
      // A modifier is itself; a character may need another shift than the technician's layout has just now.
      if (named !== undefined) press();
      else this.#asMeant(key, place, now, press);
    });
  }

  type(text: string, may: () => boolean): Promise<number> {
    let typed = 0;
    return this.#inTurn(async () => {
      const characters = [...text.replace(/\r\n?/g, '\n')];
      const most = Math.max(1, Math.min(PIECE_CHARACTERS, this.#places.spares.length));
      for (let at = 0; at < characters.length; at += most) {
        const part = characters.slice(at, at + most);
        const now = await this.#keyboardNow();
        await this.#makeRoomFor(part.map(keysymOfCharacter), now, may);
        // What was typed before has been pressed; nothing more of ours waits in the server or on the way to it.
        await this.#x.flush();
        for (const character of part) {
          if (!may()) return;
          typed++;
          const place = this.#placeOf(keysymOfCharacter(character), now);
          if (!place) continue;
          this.#asMeant(character, place, now, () => {
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

  async #keyboardNow(): Promise<KeyboardNow> {
    const { keyMask } = await this.#x.ask<{ keyMask: number }>((cb) => this.#x.client.QueryPointer(this.#x.root, cb));
    return { group: (keyMask >> GROUP_SHIFT) & 3, isLocked: (keyMask & LOCK_MASK) !== 0 };
  }

  /**
   * Presses so that this very character comes of it: with Shift and the third level as its place wants them, whatever of
   * them is held for the technician, and letters as large as they were typed though the person's are locked to be.
   */
  #asMeant(character: string, place: Place, now: KeyboardNow, press: () => void): void {
    const isLetter = character.toLowerCase() !== character.toUpperCase();
    const isShortcut = ['Control', 'Alt', 'Meta'].some((key) => this.#keysDown.has(key));
    // A shortcut's letter is its key: Shift belongs to it or does not as the technician holds it.
    if (isShortcut && isLetter) return press();
    this.#holding(SHIFT, place.isShifted, now, () =>
      this.#holding(THIRD_LEVEL, place.isThird, now, () =>
        now.isLocked && isLetter ? this.#unlocked(now, press) : press(),
      ),
    );
  }

  #holding(keysym: number, isWanted: boolean, now: KeyboardNow, press: () => void): void {
    const keycode = this.#placeOf(keysym, now)?.keycode;
    const isHeld = keycode !== undefined && this.#codesDown.has(keycode);
    if (keycode === undefined || isHeld === isWanted) return press();
    this.#code(keycode, isWanted);
    press();
    this.#code(keycode, isHeld);
  }

  #unlocked(now: KeyboardNow, press: () => void): void {
    const keycode = this.#placeOf(CAPS_LOCK, now)?.keycode;
    const tap = () => {
      if (keycode === undefined) return;
      this.#code(keycode, true);
      this.#code(keycode, false);
    };
    tap();
    press();
    tap();
  }

  #placeOf(keysym: number, { group }: KeyboardNow): Place | undefined {
    return this.#places.placeOf(keysym, group) ?? this.#lent.placeOf(keysym);
  }

  async #makeRoomFor(keysyms: readonly number[], now: KeyboardNow, may: () => boolean): Promise<void> {
    if (this.#isMapStale) await this.#readMap();
    const missing = [...new Set(keysyms)].filter((keysym) => !this.#placeOf(keysym, now));
    if (missing.length) await this.#lent.lend(missing, this.#places, may);
  }

  async #readMap(): Promise<void> {
    const { min_keycode: first, max_keycode: last } = this.#x.client.display;
    const map = await this.#x.ask<number[][]>((cb) => this.#x.client.GetKeyboardMapping(first, last - first + 1, cb));
    this.#isMapStale = false;
    this.#lent.forgetLost((keycode) => map[keycode - first] ?? []);
    this.#places = new KeyPlaces(map, first, this.#lent.keycodes);
  }
}
