import type { Rect } from '@porch/screen';
import x11, { type Damage, type XEvent } from 'x11';
import type { ProgramWindows } from '@porch/host';
import type { XConnection } from '../server/connection.ts';
import { rectOf, rectOfEvent } from '../server/rects.ts';
import { LeftAreas } from './left-areas.ts';
import { coveredOf, hidesAny, topWindow, type TopWindow } from './top-window.ts';
import { WindowKinds } from './window-kinds.ts';

const VIEWABLE = 2;
/** What the root window tells us: its own size, and everything about its children, in the order in which it happens. */
export const ROOT_EVENTS = (x11.eventMask['StructureNotify'] ?? 0) | (x11.eventMask['SubstructureNotify'] ?? 0);

/**
 * Where windows lie that must never leave this computer: mirrored from the server's events on the very connection that
 * fetches the pixels, so that at the moment a picture's answer comes in, this is how things stood when it was taken. All
 * windows of a program count, pop-ups and dialogs too. An area that a hidden window has left stays covered until
 * something has been drawn over all of it: until then it may still show what was hidden. Shapes and what lies above are
 * not looked at; the whole rectangle is covered.
 */
export class HiddenWindows {
  readonly #x: XConnection;
  readonly #programs = new Set<number>();
  /** Those of them that nobody can choose to show. */
  readonly #keptOut = new Set<number>();
  readonly #windows = new Map<number, TopWindow>();
  readonly #left: LeftAreas;
  readonly #kinds: WindowKinds;
  readonly #resourceMask: number;
  /** How many wish that no notification is shown. */
  #wantNone = 0;
  /** Set by whoever takes pictures: something else is covered than before. */
  onCoverChanged: () => void = () => undefined;

  constructor(x: XConnection, changes: Damage) {
    this.#x = x;
    this.#kinds = new WindowKinds(x);
    this.#left = new LeftAreas(x, changes, () => {
      this.#restIfNothingIsHidden();
      this.onCoverChanged();
    });
    this.#resourceMask = x.client.display.resource_mask;
    x.client.on('event', (event) => this.#follow(event));
    x.client.ChangeWindowAttributes(x.root, { eventMask: ROOT_EVENTS });
  }

  /** What must be covered in a picture taken at this point of the server's stream. */
  get rects(): Rect[] {
    const rects = [...this.#left.rects];
    // For each piece of each picture: nothing is made of windows that are just there.
    for (const window of this.#windows.values()) if (hidesAny(window)) rects.push(...coveredOf(window));
    return rects;
  }

  /** Whether this window, a child of the root, is one of them. */
  hides(window: number): boolean {
    const known = this.#windows.get(window);
    return known ? known.isHidden || known.isKeptOut : this.#isHiddenProgram(window);
  }

  /** Hides every window of the program that made this one, now and those to come. */
  async hideProgramOf(window: number): Promise<void> {
    this.#programs.add(this.#programOf(window));
    await this.#learnAll();
  }

  /**
   * This part of a child of the root, by its place in that window, is in no picture, and goes where the window goes, until
   * the returned function is called. Undefined: there is no such window.
   */
  async coverPart(window: number, part: Rect): Promise<(() => void) | undefined> {
    await this.#learnAll();
    const known = this.#windows.get(window);
    if (!known) return undefined;
    known.parts.add(part);
    this.onCoverChanged();
    return () => {
      known.parts.delete(part);
      this.#restIfNothingIsHidden();
      this.onCoverChanged();
    };
  }

  /**
   * Notifications that are there, and those that come until the returned function is called, are in no picture until they
   * are gone. What comes may be one until it is known what it is.
   */
  async keepNotificationsOut(): Promise<() => void> {
    this.#wantNone++;
    await this.#learnAll();
    const there = [...this.#windows].filter(([, { isMapped, isKeptOut }]) => isMapped && !isKeptOut);
    const found = await Promise.all(
      there.map(async ([window]) => ((await this.#kinds.isNotification(window)) ? window : [])),
    );
    for (const window of found.flat()) this.#change(window, (w) => (w.isKeptOut = true));
    if (found.flat().length) this.onCoverChanged();
    return () => {
      this.#wantNone--;
      this.#restIfNothingIsHidden();
    };
  }

  /** What this window's program shows is in no picture, whatever is chosen, until the returned function is called. */
  async keepOut(window: number): Promise<() => Promise<void>> {
    const program = this.#programOf(window);
    this.#keptOut.add(program);
    await this.hideProgramOf(window);
    return async () => {
      await this.#hearWhatWent();
      this.#keptOut.delete(program);
      await this.setHidden([...this.#programs].filter((other) => other !== program));
    };
  }

  /** Every program with a window that can be seen, by the title of its topmost one, for choosing. */
  async listPrograms(): Promise<ProgramWindows[]> {
    const { client, root } = this.#x;
    const own = this.#programOf(client.display.resource_base);
    const found = new Map<number, string>();
    // The last child is on top. A window manager puts a frame around each; the program is inside.
    for (const child of (await this.#kinds.childrenOf(root)).reverse())
      // Of a frame only what it holds counts: the frames of all programs belong to the window manager.
      for (const window of [...(await this.#kinds.childrenOf(child)), child]) {
        const program = this.#programOf(window);
        if (program === own || this.#keptOut.has(program) || found.has(program)) continue;
        const how = await this.#x
          .ask<{ mapState: number }>((cb) => client.GetWindowAttributes(window, cb))
          .catch(() => undefined);
        if (how?.mapState !== VIEWABLE) continue;
        const title = await this.#kinds.titleOf(window);
        if (!title || title.startsWith('Zesty Porch')) continue;
        found.set(program, title);
        break;
      }
    return [...found].map(([program, title]) => ({ program, title, isHidden: this.#programs.has(program) }));
  }

  /** Exactly these programs are hidden from now on. What is shown again is fetched anew. */
  async setHidden(chosen: readonly number[]): Promise<void> {
    const programs = [...chosen, ...this.#keptOut];
    const shownAgain = [...this.#programs].some((program) => !programs.includes(program));
    for (const program of programs) if (!this.#programs.has(program)) await this.hideProgramOf(program);
    if (!shownAgain) return;
    for (const program of [...this.#programs]) if (!programs.includes(program)) this.#programs.delete(program);
    for (const [window, known] of this.#windows) {
      const inside = known.isHidden ? await this.#kinds.childrenOf(window) : [];
      known.isHidden = this.#isHiddenProgram(window) || inside.some((child) => this.#isHiddenProgram(child));
    }
    this.#restIfNothingIsHidden();
    this.onCoverChanged();
  }

  /** Nothing of Doorstep's own is in the picture meanwhile, whoever may look. */
  async whileOwnIsHidden<T>(work: () => Promise<T>): Promise<T> {
    const own = this.#programOf(this.#x.client.display.resource_base);
    await this.hideProgramOf(own);
    try {
      return await work();
    } finally {
      await this.#hearWhatWent();
      await this.setHidden([...this.#programs].filter((program) => program !== own));
    }
  }

  /** Hides every program that has a window with such words in its title. */
  async hideTitled(words: string): Promise<number> {
    const { root } = this.#x;
    let found = 0;
    const visit = async (window: number, depth: number): Promise<void> => {
      const title = await this.#kinds.titleOf(window);
      if (title.toLowerCase().includes(words.toLowerCase())) {
        found++;
        await this.hideProgramOf(window);
      }
      const children = await this.#kinds.childrenOf(window);
      if (depth > 0) for (const child of children) await visit(child, depth - 1);
    };
    await visit(root, 3);
    return found;
  }

  #programOf = (window: number): number => (window & ~this.#resourceMask) >>> 0;
  #isHiddenProgram = (window: number): boolean => this.#programs.has(this.#programOf(window));

  async #learnAll(): Promise<void> {
    this.#left.begin();
    const { client, root } = this.#x;
    const { children } = await this.#x.ask<{ children: number[] }>((cb) => client.QueryTree(root, cb));
    await Promise.all(children.map((child) => this.#learn(child)));
  }

  /** A window that was there before: its place, and whether a frame around it holds a hidden program. */
  async #learn(window: number): Promise<void> {
    const { client } = this.#x;
    try {
      const [at, how, inside] = await Promise.all([
        this.#x.ask<{ xPos: number; yPos: number; width: number; height: number; borderWidth?: number }>((cb) =>
          client.GetGeometry(window, cb),
        ),
        this.#x.ask<{ mapState: number }>((cb) => client.GetWindowAttributes(window, cb)),
        this.#kinds.childrenOf(window),
      ]);
      const isHidden = this.#isHiddenProgram(window) || inside.some((child) => this.#isHiddenProgram(child));
      const known = this.#windows.get(window);
      // What events have said meanwhile is newer than this answer's place, but not its kind.
      if (known) known.isHidden ||= isHidden;
      else this.#windows.set(window, topWindow(rectOf(at), how.mapState === VIEWABLE, isHidden));
    } catch (error) {
      if (this.#x.isGone) throw error;
      // Gone meanwhile.
    }
  }

  /** While nothing is hidden, too: a window that moves then lies elsewhere when it is hidden again. */
  #follow(event: XEvent): void {
    const { root } = this.#x;
    if (this.#left.follow(event)) return;
    switch (event.name) {
      case 'CreateNotify':
        if (event['parent'] === root && event.wid !== undefined)
          this.#windows.set(event.wid, topWindow(rectOfEvent(event), false, this.#isHiddenProgram(event.wid)));
        break;
      case 'ConfigureNotify':
        this.#change(event['wid1'] as number, (w) => (w.rect = rectOfEvent(event)));
        break;
      case 'MapNotify':
        if (this.#wantNone && event.wid !== undefined) this.#doubt(event.wid);
        this.#change(event.wid, (w) => (w.isMapped = true));
        break;
      case 'UnmapNotify':
        this.#change(event.wid, (w) => (w.isMapped = false));
        this.#change(event.wid, (w) => (w.isKeptOut = false));
        break;
      case 'DestroyNotify':
        this.#change(event.wid, (w) => (w.isMapped = false));
        if (event.wid !== undefined) this.#windows.delete(event.wid);
        break;
      case 'ReparentNotify': {
        // Into a frame of the window manager: the frame shows it from now on.
        const parent = event['parent'] as number;
        if (event.wid === undefined) break;
        if (parent === root)
          this.#windows.set(
            event.wid,
            topWindow(
              { x: event.x ?? 0, y: event.y ?? 0, width: 0, height: 0 },
              false,
              this.#isHiddenProgram(event.wid),
            ),
          );
        else {
          this.#change(event.wid, (w) => (w.isMapped = false));
          this.#windows.delete(event.wid);
          const frame = this.#windows.get(parent);
          if (frame && this.#isHiddenProgram(event.wid)) frame.isHidden = true;
        }
        break;
      }
    }
  }

  #doubt(window: number): void {
    const known = this.#windows.get(window);
    if (!known || known.isKeptOut) return;
    known.isKeptOut = true;
    this.#kinds
      .isNotification(window)
      .then((isOne) => {
        if (isOne) return;
        known.isKeptOut = false;
        this.onCoverChanged();
      })
      .catch(() => undefined); // The server went; whoever follows it knows.
  }

  /** A hidden window that changes leaves an area behind. */
  #change(window: number | undefined, change: (window: TopWindow) => void): void {
    const known = window === undefined ? undefined : this.#windows.get(window);
    if (!known) return;
    const before = coveredOf(known);
    change(known);
    const after = coveredOf(known).map((rect) => JSON.stringify(rect));
    for (const rect of before) if (!after.includes(JSON.stringify(rect))) this.#left.add(rect);
  }

  /** What was closed a moment ago is known to be gone while it is still hidden, so that what it leaves is covered. */
  async #hearWhatWent(): Promise<void> {
    if (!this.#x.isGone) await this.#x.flush().catch(() => undefined); // The server went; whoever follows it knows.
  }
  #restIfNothingIsHidden(): void {
    if (!this.#programs.size && !this.#wantNone && ![...this.#windows.values()].some(hidesAny)) this.#left.rest();
  }
}
