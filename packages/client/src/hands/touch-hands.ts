import type { TouchWay } from '@porch/core';

/** A finger that moved less than this was meant to stay, in CSS pixels. */
const STAYS = 9;
/** A finger that stays this long means the other button. */
const LONG_MS = 550;
/** A finger that comes down this soon after a tap goes on with it: it drags. */
const AGAIN_MS = 300;
/** A hand on glass is shorter than the way of a pointer. */
const POINTER_SPEED = 1.4;

interface At {
  readonly x: number;
  readonly y: number;
}
/** What fingers mean, in CSS pixels from the upper left of the picture. */
export type TouchDeed = At &
  (
    | { readonly does: 'move' | 'tap' }
    | { readonly does: 'press' | 'letGo'; readonly button: 'left' | 'right' }
    /** By so many pixels: the picture itself, or what a wheel would turn there. */
    | { readonly does: 'scroll'; readonly byX: number; readonly byY: number }
    /** The picture itself becomes so many times as large. */
    | { readonly does: 'zoom'; readonly times: number }
  );

interface Finger extends At {
  readonly fromX: number;
  readonly fromY: number;
  readonly fromMs: number;
}

const isFar = (f: Finger) => Math.hypot(f.x - f.fromX, f.y - f.fromY) > STAYS;

/**
 * Fingers on a picture of another computer, as deeds of a hand there. One finger taps, drags, or stays for the other button;
 * two turn the wheel, spread the picture, or tap for the other button. While nobody works, one finger moves the picture and
 * a tap says that somebody would like to.
 */
export class TouchHands {
  readonly #way: () => TouchWay;
  readonly #isWorking: () => boolean;
  readonly #fingers = new Map<number, Finger>();
  /** Where the pointer is that fingers lead. */
  #pointer: At = { x: 0, y: 0 };
  #pressed: 'left' | undefined;
  #tappedAtMs = -Infinity;
  /** How many fingers this gesture had at most: a second that goes first does not make a tap of the other. */
  #most = 0;
  #hasMoved = false;
  #spread = 0;
  #isSpread = false;
  /** Between the two where they came down: what is there is what they scroll, wherever they go. */
  #two: At = { x: 0, y: 0 };

  constructor(way: () => TouchWay, isWorking: () => boolean) {
    this.#way = way;
    this.#isWorking = isWorking;
  }

  /** Where a led pointer stands. */
  get pointer(): At {
    return this.#pointer;
  }

  down(id: number, at: At, nowMs: number): TouchDeed[] {
    if (this.#fingers.size === 0) {
      this.#most = 0;
      this.#hasMoved = false;
    }
    this.#fingers.set(id, { ...at, fromX: at.x, fromY: at.y, fromMs: nowMs });
    this.#most = Math.max(this.#most, this.#fingers.size);
    if (this.#fingers.size === 2) {
      this.#spread = this.#distance();
      this.#isSpread = false;
      this.#two = this.#middle();
      return this.#letGo();
    }
    const goesOn = this.#fingers.size === 1 && nowMs - this.#tappedAtMs < AGAIN_MS;
    return goesOn && this.#isLed && this.#isWorking() ? this.#press() : [];
  }

  /** Where fingers are now, all that moved since they were last told together: one alone would look as if they spread. */
  move(now: ReadonlyMap<number, At>): TouchDeed[] {
    const [before, spread] = [this.#middle(), this.#distance()];
    for (const [id, at] of now) {
      const finger = this.#fingers.get(id);
      if (finger) this.#fingers.set(id, { ...finger, ...at });
    }
    const isFirst = !this.#hasMoved;
    if (isFirst && ![...this.#fingers.values()].some(isFar)) return [];
    this.#hasMoved = true;
    const at = this.#middle();
    const by = { byX: at.x - before.x, byY: at.y - before.y };
    if (this.#fingers.size === 2) return this.#moveTwo(at, by, spread);
    const [finger] = this.#fingers.values();
    if (!finger || this.#most > 1) return [];
    if (!this.#isWorking()) return [{ does: 'scroll', ...at, ...by }];
    if (this.#isLed) return this.#lead(by);
    const from = { x: finger.fromX, y: finger.fromY };
    return [...(isFirst ? this.#press(from) : []), { does: 'move', ...at }];
  }

  up(id: number, nowMs: number): TouchDeed[] {
    const finger = this.#fingers.get(id);
    if (!finger) return [];
    this.#fingers.delete(id);
    if (this.#pressed) return this.#letGo(this.#isLed ? this.#pointer : finger);
    if (this.#hasMoved || this.#fingers.size) return [];
    return this.#tap(finger, nowMs);
  }

  /** The fingers are gone without a word: nothing is meant, and nothing stays pressed. */
  cancel(): TouchDeed[] {
    this.#fingers.clear();
    return this.#letGo();
  }

  get #isLed(): boolean {
    return this.#way() === 'pointer';
  }

  #tap(finger: Finger, nowMs: number): TouchDeed[] {
    const at = this.#isLed && this.#isWorking() ? this.#pointer : { x: finger.fromX, y: finger.fromY };
    if (!this.#isWorking()) return [{ does: 'tap', ...at }];
    const isOther = this.#most > 1 || nowMs - finger.fromMs >= LONG_MS;
    if (!isOther) this.#tappedAtMs = nowMs;
    const button = isOther ? 'right' : 'left';
    return [
      { does: 'move', ...at },
      { does: 'press', button, ...at },
      { does: 'letGo', button, ...at },
    ];
  }

  #lead({ byX, byY }: { byX: number; byY: number }): TouchDeed[] {
    this.#pointer = {
      x: Math.max(0, this.#pointer.x + byX * POINTER_SPEED),
      y: Math.max(0, this.#pointer.y + byY * POINTER_SPEED),
    };
    return [{ does: 'move', ...this.#pointer }];
  }

  #moveTwo(at: At, by: { byX: number; byY: number }, before: number): TouchDeed[] {
    const distance = Math.max(1, this.#distance());
    this.#isSpread ||= Math.abs(distance - this.#spread) > STAYS;
    const scroll: TouchDeed = { does: 'scroll', ...this.#two, ...by };
    return this.#isSpread ? [{ does: 'zoom', ...at, times: distance / Math.max(1, before) }] : [scroll];
  }

  #press(at: At = this.#pointer): TouchDeed[] {
    this.#pressed = 'left';
    return [
      { does: 'move', ...at },
      { does: 'press', button: 'left', ...at },
    ];
  }

  #letGo(at: At = this.#pointer): TouchDeed[] {
    if (!this.#pressed) return [];
    this.#pressed = undefined;
    return [{ does: 'letGo', button: 'left', x: at.x, y: at.y }];
  }

  #distance(): number {
    const [a, b] = this.#fingers.values();
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
  }
  /** Of the first two, or of the one. */
  #middle(): At {
    const [a, b = a] = this.#fingers.values();
    return a && b ? { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } : { x: 0, y: 0 };
  }
}
