import type { Rect } from '@porch/screen';
import type { Damage, XEvent } from 'x11';
import type { XConnection } from '../server/connection.ts';
import { boundsOf, common, without } from '../server/rects.ts';

const DAMAGE_RAW_RECTANGLES = 0;
const INPUT_OUTPUT = 1;
/** Areas that nothing was drawn over for this long are drawn anew, by having everything there exposed once. */
const REDRAW_MS = 400;
/** After areas were freed, the whole picture is taken once more: what was covered is fetched again. */
const UNCOVER_MS = 150;
/** More pieces than this are covered by what bounds them all. */
const MAX_PIECES = 300;

/**
 * Areas that something hidden has left: each stays covered until something has been drawn over all of it, since until then
 * it may still show what was hidden.
 */
export class LeftAreas {
  readonly #x: XConnection;
  readonly #changes: Damage;
  readonly #onFreed: () => void;
  /** Pieces that nothing was drawn over yet. */
  #left: Rect[] = [];
  /** The same, but of what is said to be drawn just now nobody knows whether it was. */
  #held: Rect[] = [];
  #damage: number | undefined;
  #redrawTimer: ReturnType<typeof setTimeout> | undefined;
  #uncoverTimer: ReturnType<typeof setTimeout> | undefined;

  constructor(x: XConnection, changes: Damage, onFreed: () => void) {
    this.#x = x;
    this.#changes = changes;
    this.#onFreed = onFreed;
  }

  get rects(): readonly Rect[] {
    return this.#held.length ? [...this.#left, ...this.#held] : this.#left;
  }

  /** Before anything is hidden: from now on it is heard where something is drawn. */
  begin(): void {
    if (this.#damage !== undefined) return;
    this.#damage = this.#x.client.AllocID();
    this.#changes.Create(this.#damage, this.#x.root, DAMAGE_RAW_RECTANGLES);
  }
  /** Nothing is hidden any longer: once nothing is left either, nothing has to be heard. */
  rest(): void {
    if (this.rects.length || this.#damage === undefined) return;
    this.#changes.Destroy(this.#damage);
    this.#damage = undefined;
  }

  add(area: Rect): void {
    this.#left.push(area);
    if (this.#left.length > MAX_PIECES) this.#left = [boundsOf(this.#left)];
    this.#redrawSoon();
  }

  /**
   * A window moves, and the server says that it drew all that was to be seen of it at its new place: also where something
   * else lies over that, and also what it had not drawn itself and takes along. Until the server is done with it neither
   * counts as drawn.
   */
  moved(from: Rect, to: Rect): void {
    if (!this.#left.length) return;
    const taken = this.#left.flatMap((rect) => common(rect, from) ?? []);
    const carried = taken.map((rect) => ({ ...rect, x: rect.x + to.x - from.x, y: rect.y + to.y - from.y }));
    const held = [...carried, ...this.#left.flatMap((rect) => common(rect, to) ?? [])];
    if (!held.length) return;
    this.#held.push(...held);
    this.#x
      .flush()
      .then(() => {
        this.#held = this.#held.filter((rect) => !held.includes(rect));
        for (const rect of held) this.add(rect);
      })
      .catch(() => undefined); // The server went; whoever follows it knows.
  }

  /** Whether it was about drawing that is followed here. */
  follow(event: XEvent): boolean {
    if (event.name !== 'DamageNotify' || event['damage'] !== this.#damage) return false;
    const { x, y, w, h } = event['area'] as { x: number; y: number; w: number; h: number };
    if (!this.#left.length) return true;
    this.#left = this.#left.flatMap((rect) => without(rect, { x, y, width: w, height: h }));
    this.#uncoverTimer ??= setTimeout(() => {
      this.#uncoverTimer = undefined;
      this.#onFreed();
    }, UNCOVER_MS);
    return true;
  }

  #redrawSoon(): void {
    clearTimeout(this.#redrawTimer);
    this.#redrawTimer = setTimeout(() => {
      if (this.#x.isGone || !this.#left.length) return;
      // A window without a background, put there and taken away: it shows nothing, and all beneath it is exposed.
      const { client, root } = this.#x;
      const { x, y, width, height } = boundsOf(this.#left);
      const window = client.AllocID();
      client.CreateWindow(window, root, x, y, width, height, 0, 0, INPUT_OUTPUT, 0, { overrideRedirect: 1 });
      client.MapWindow(window);
      client.DestroyWindow(window);
      this.#redrawSoon();
    }, REDRAW_MS);
  }
}
