/** A key that was pressed, and what has happened to the modifiers since. */
interface Press {
  letGo: number;
  pressed: number;
  readonly pressedSince: Set<number>;
}

/**
 * Which modifiers were held when a key was pressed. The server only says which are held when it answers, and hands are
 * often quicker than a busy computer: what was let go between the press and the answer was held at the press, what was
 * pressed between them was not. Nothing is remembered from one press to the next, so a release that never comes (another
 * virtual terminal) holds nothing for ever.
 */
export class HeldThen {
  readonly #bitsOf: ReadonlyMap<number, number>;
  readonly #presses = new Set<Press>();

  /** `bitsOf` has the modifier bits of each keycode that is a modifier. */
  constructor(bitsOf: ReadonlyMap<number, number>) {
    this.#bitsOf = bitsOf;
  }

  onPress(keycode: number): void {
    const bits = this.#bitsOf.get(keycode) ?? 0;
    for (const press of this.#presses) {
      press.pressedSince.add(keycode);
      press.pressed |= bits;
    }
  }

  onRelease(keycode: number): void {
    const bits = this.#bitsOf.get(keycode) ?? 0;
    for (const press of this.#presses) if (!press.pressedSince.has(keycode)) press.letGo |= bits;
  }

  /** The modifier bits at this moment. `readNow` asks the server, which answers later with those of then. */
  async read(readNow: () => Promise<number>): Promise<number> {
    const press: Press = { letGo: 0, pressed: 0, pressedSince: new Set() };
    this.#presses.add(press);
    try {
      const bits = await readNow();
      return (bits & ~press.pressed) | press.letGo;
    } finally {
      this.#presses.delete(press);
    }
  }
}
