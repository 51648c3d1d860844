import type { Rect } from '@porch/screen';
import type { Shape, XEvent } from 'x11';
import type { XConnection } from '../server/connection.ts';
import { rectOf, rectOfEvent } from '../server/rects.ts';
import { ROOT_EVENTS } from '../server/root-events.ts';
import { topWindow, type TopWindow } from './top-window.ts';

const VIEWABLE = 2;
const INPUT_ONLY = 2;
const BOUNDING = 0;
const ON_TOP = 0;
/** Windows in each other, between a child of the root and a program's own: some window managers put two around each. */
const MOST_FRAMES = 4;

export interface StackListener {
  /** Around every change of one of them, or of how they lie. */
  changing(window: TopWindow | undefined, change: () => void): void;
  mapping(window: TopWindow): void;
}

/**
 * The children of the root window, from the lowest to the highest, mirrored from the server's events on the very
 * connection that fetches pixels: when a picture's answer comes in, this is how they lay when it was taken. Answers are
 * taken in the moment they come for the same reason.
 */
export class WindowStack {
  readonly #x: XConnection;
  readonly #shape: Shape;
  readonly #on: StackListener;
  readonly #windows = new Map<number, TopWindow>();
  #order: TopWindow[] = [];
  /** Whether it is asked of every window that comes what it draws. */
  asksWhatIsDrawn = false;
  /** Windows that went into something whose place is not known yet: they may be anywhere. */
  #lost = 0;

  constructor(x: XConnection, shape: Shape, on: StackListener) {
    this.#x = x;
    this.#shape = shape;
    this.#on = on;
    x.client.ChangeWindowAttributes(x.root, { eventMask: ROOT_EVENTS });
  }

  get all(): readonly TopWindow[] {
    return this.#order;
  }
  get isAnyLost(): boolean {
    return this.#lost > 0;
  }
  at = (window: number): TopWindow | undefined => this.#windows.get(window);
  programOf = (window: number): number => (window & ~this.#x.client.display.resource_mask) >>> 0;

  /** Windows that were there before. */
  async learnAll(): Promise<void> {
    const { client, root } = this.#x;
    const { children } = await this.#x.ask<{ children: number[] }>((cb) =>
      client.QueryTree(
        root,
        now(cb, ({ children: ids }) => this.#takeOrder(ids)),
      ),
    );
    await Promise.all(children.map((window) => this.#ask(window)));
  }

  follow(event: XEvent): void {
    const known = event.wid === undefined ? undefined : this.#windows.get(event.wid);
    switch (event.name) {
      case 'CreateNotify':
        if (event['parent'] !== this.#x.root || event.wid === undefined) break;
        this.#add(event.wid, event);
        if (this.asksWhatIsDrawn) this.#inBackground(this.#ask(event.wid));
        break;
      case 'ConfigureNotify':
        this.#configure(event);
        break;
      case 'CirculateNotify':
        if (known)
          this.#on.changing(known, () => this.#move(known, event['place'] === ON_TOP ? this.#order.at(-1)?.id : 0));
        break;
      case 'MapNotify':
        if (!known) break;
        this.#on.mapping(known);
        this.#on.changing(known, () => (known.isMapped = true));
        break;
      case 'UnmapNotify':
        if (!known) break;
        this.#on.changing(known, () => (known.isMapped = false));
        this.#on.changing(known, () => (known.isKeptOut = false));
        break;
      case 'DestroyNotify':
        if (known) this.#remove(known);
        break;
      case 'ReparentNotify':
        this.#reparent(event);
        break;
      case 'ShapeNotify':
        this.#reshape(event);
        break;
    }
  }

  #add(id: number, event: XEvent): void {
    const border = (event['borderWidth'] as number | undefined) ?? 0;
    const added = topWindow(id, this.programOf(id), rectOfEvent(event), border);
    this.#on.changing(undefined, () => this.#put(added));
  }

  #put(window: TopWindow): void {
    this.#windows.set(window.id, window);
    this.#order = [...this.#order.filter(({ id }) => id !== window.id), window];
  }

  #remove(known: TopWindow): void {
    this.#on.changing(known, () => (known.isMapped = false));
    this.#windows.delete(known.id);
    this.#order = this.#order.filter((other) => other !== known);
  }

  #configure(event: XEvent): void {
    const known = this.#windows.get(event['wid1'] as number);
    if (!known) return;
    this.#on.changing(known, () => {
      known.rect = rectOfEvent(event);
      known.border = (event['borderWidth'] as number | undefined) ?? 0;
      this.#move(known, event['aboveSibling'] as number);
    });
  }

  /** Right above another one; on the floor, above none. What lies above one that is not known here lies on top: it came late. */
  #move(window: TopWindow, above: number | undefined): void {
    const others = this.#order.filter((other) => other !== window);
    const at = above ? others.findIndex(({ id }) => id === above) + 1 || others.length : 0;
    this.#order = others.toSpliced(at, 0, window);
  }

  /** Into a frame of the window manager: the frame shows it from now on. Or out of it. */
  #reparent(event: XEvent): void {
    const { wid } = event;
    if (wid === undefined) return;
    for (const one of this.#order) if (one.holds.has(wid)) this.#on.changing(one, () => one.holds.delete(wid));
    const parent = event['parent'] as number;
    if (parent === this.#x.root) {
      this.#add(wid, { ...event, width: 0, height: 0 });
      this.#inBackground(this.#whileLost(() => this.#ask(wid)));
      return;
    }
    const frame = this.#windows.get(parent);
    if (frame) this.#on.changing(frame, () => frame.holds.set(wid, this.programOf(wid)));
    else this.#inBackground(this.#whileLost(() => this.#find(wid, parent)));
    const known = this.#windows.get(wid);
    if (known) this.#remove(known);
  }

  /** Which child of the root it went into, when it did not go there directly. */
  async #find(window: number, parent: number): Promise<void> {
    let at = parent;
    for (let step = 0; step < MOST_FRAMES; step++) {
      const frame = this.#windows.get(at);
      if (frame) return this.#on.changing(frame, () => frame.holds.set(window, this.programOf(window)));
      at = (await this.#x.ask<{ parent: number }>((cb) => this.#x.client.QueryTree(at, cb))).parent;
    }
  }

  async #whileLost(find: () => Promise<void>): Promise<void> {
    this.#on.changing(undefined, () => this.#lost++);
    try {
      await find();
    } finally {
      this.#on.changing(undefined, () => this.#lost--);
    }
  }

  #reshape(event: XEvent): void {
    const known = this.#windows.get(event['window'] as number);
    if (!known || known.drawn === 'nothing' || event['kind'] !== BOUNDING) return;
    this.#on.changing(known, () => (known.drawn = 'unknown'));
    this.#inBackground(this.#askWhatIsDrawn(known));
  }

  #takeOrder(children: readonly number[]): void {
    this.#on.changing(undefined, () => {
      const nowhere = { x: 0, y: 0, width: 0, height: 0 };
      for (const id of children) if (!this.#windows.has(id)) this.#put(topWindow(id, this.programOf(id), nowhere, 0));
      this.#order = children.flatMap((id) => this.#windows.get(id) ?? []);
    });
  }

  /** Where it lies, whether it is to be seen, whose windows it holds, and what of it is drawn. */
  async #ask(id: number): Promise<void> {
    const known = this.#windows.get(id);
    if (!known) return;
    const { client } = this.#x;
    const where = this.#x.ask<Parameters<typeof rectOf>[0]>((cb) =>
      client.GetGeometry(
        id,
        now(cb, (at) =>
          this.#on.changing(known, () => {
            known.rect = rectOf(at);
            known.border = at.borderWidth ?? 0;
          }),
        ),
      ),
    );
    const how = this.#x.ask<{ mapState: number; klass: number }>((cb) =>
      client.GetWindowAttributes(
        id,
        now(cb, ({ mapState, klass }) =>
          this.#on.changing(known, () => {
            known.isMapped = mapState === VIEWABLE;
            if (klass === INPUT_ONLY) known.drawn = 'nothing';
          }),
        ),
      ),
    );
    await this.#unlessGone(Promise.all([where, how, this.#askWhatIsDrawn(known), this.#askWhatItHolds(known, id, 1)]));
  }

  async #askWhatItHolds(known: TopWindow, id: number, depth: number): Promise<void> {
    const { client } = this.#x;
    const { children } = await this.#x.ask<{ children: number[] }>((cb) =>
      client.QueryTree(
        id,
        now(cb, ({ children: inside }) => {
          for (const child of inside) {
            const program = this.programOf(child);
            if (program !== known.program) this.#on.changing(known, () => known.holds.set(child, program));
          }
        }),
      ),
    );
    // A frame within a frame: what is of the same program may hold what is not.
    if (depth >= MOST_FRAMES) return;
    const own = children.filter((child) => this.programOf(child) === known.program);
    await Promise.all(own.map((child) => this.#unlessGone(this.#askWhatItHolds(known, child, depth + 1))));
  }

  /** Once it is known that it draws at all. */
  async #askWhatIsDrawn(known: TopWindow): Promise<void> {
    if (!this.asksWhatIsDrawn) return;
    const shape = this.#shape;
    // Heard of from here on; and then asked, so that nothing is missed in between.
    shape.SelectInput(known.id, 1);
    let isShaped = false;
    const shaped = this.#x.ask<{ boundingShaped: boolean }>((cb) =>
      shape.QueryExtents(
        known.id,
        now(cb, ({ boundingShaped }) => (isShaped = boundingShaped)),
      ),
    );
    const parts = this.#x.ask<{ rectangles: [number, number, number, number][] }>((cb) =>
      shape.GetRectangles(
        known.id,
        BOUNDING,
        now(cb, ({ rectangles }) => {
          if (known.drawn === 'nothing') return;
          const rects: Rect[] = rectangles.map(([x, y, width, height]) => ({ x, y, width, height }));
          this.#on.changing(known, () => (known.drawn = isShaped ? rects : 'whole'));
        }),
      ),
    );
    await this.#unlessGone(Promise.all([shaped, parts]));
  }

  /** A window that went shows nothing any longer. */
  async #unlessGone(work: Promise<unknown>): Promise<void> {
    await work.catch((error: unknown) => {
      if (this.#x.isGone) throw error;
    });
  }

  #inBackground(work: Promise<void>): void {
    this.#unlessGone(work).catch(() => undefined); // The server went; whoever follows it knows.
  }
}

/** Takes an answer in the moment in which it comes, before any event that came after it. */
const now =
  <T>(then: (error: Error | null, answer: T) => void | boolean, take: (answer: T) => void) =>
  (error: Error | null, answer: T): void | boolean => {
    if (!error) take(answer);
    return then(error, answer);
  };
