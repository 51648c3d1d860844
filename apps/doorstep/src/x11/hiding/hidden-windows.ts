import type { Rect } from '@porch/screen';
import x11, { type Damage, type XEvent } from 'x11';
import type { ProgramWindows } from '@porch/host';
import type { XConnection } from '../server/connection.ts';
import { boundsOf, rectOf, rectOfEvent, without } from '../server/rects.ts';

const DAMAGE_RAW_RECTANGLES = 0;
const VIEWABLE = 2;
const INPUT_OUTPUT = 1;
/** Areas that nothing was drawn over for this long are drawn anew, by having everything there exposed once. */
const REDRAW_MS = 400;
/** After areas were freed, the whole picture is taken once more: what was covered is fetched again. */
const UNCOVER_MS = 150;
/** More pieces than this are covered by what bounds them all. */
const MAX_PIECES = 300;
/** What the root window tells us: its own size, and everything about its children, in the order in which it happens. */
export const ROOT_EVENTS = (x11.eventMask['StructureNotify'] ?? 0) | (x11.eventMask['SubstructureNotify'] ?? 0);

interface TopWindow {
  rect: Rect;
  isMapped: boolean;
  isHidden: boolean;
}

/**
 * Where windows lie that must never leave this computer: mirrored from the server's events on the very connection that
 * fetches the pixels, so that at the moment a picture's answer comes in, this is how things stood when it was taken. All
 * windows of a program count, pop-ups and dialogs too. An area that a hidden window has left stays covered until
 * something has been drawn over all of it: until then it may still show what was hidden. Shapes and what lies above are
 * not looked at; the whole rectangle is covered.
 */
export class HiddenWindows {
  readonly #x: XConnection;
  readonly #changes: Damage;
  readonly #programs = new Set<number>();
  /** Those of them that nobody can choose to show. */
  readonly #keptOut = new Set<number>();
  readonly #windows = new Map<number, TopWindow>();
  /** Areas that were left, as pieces that nothing was drawn over yet. */
  #left: Rect[] = [];
  #damage: number | undefined;
  readonly #resourceMask: number;
  #redrawTimer: ReturnType<typeof setTimeout> | undefined;
  #uncoverTimer: ReturnType<typeof setTimeout> | undefined;
  /** Set by whoever takes pictures: something is not covered any longer. */
  onUncovered: () => void = () => undefined;

  constructor(x: XConnection, changes: Damage) {
    this.#x = x;
    this.#changes = changes;
    this.#resourceMask = x.client.display.resource_mask;
    x.client.on('event', (event) => this.#follow(event));
    x.client.ChangeWindowAttributes(x.root, { eventMask: ROOT_EVENTS });
  }

  /** What must be covered in a picture taken at this point of the server's stream. */
  get rects(): Rect[] {
    if (!this.#programs.size) return this.#left;
    const shown = [...this.#windows.values()].filter((w) => w.isHidden && w.isMapped).map((w) => w.rect);
    return [...shown, ...this.#left];
  }

  /** Whether this window, a child of the root, is one of them. */
  hides(window: number): boolean {
    return this.#windows.get(window)?.isHidden ?? this.#isHiddenProgram(window);
  }

  /** Hides every window of the program that made this one, now and those to come. */
  async hideProgramOf(window: number): Promise<void> {
    const { client, root } = this.#x;
    this.#programs.add(this.#programOf(window));
    if (this.#damage === undefined) {
      this.#damage = client.AllocID();
      this.#changes.Create(this.#damage, root, DAMAGE_RAW_RECTANGLES);
    }
    const { children } = await this.#x.ask<{ children: number[] }>((cb) => client.QueryTree(root, cb));
    await Promise.all(children.map((child) => this.#learn(child)));
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
    const name = await this.#x.atom('WM_NAME');
    const own = this.#programOf(client.display.resource_base);
    const found = new Map<number, string>();
    // The last child is on top. A window manager puts a frame around each; the program is inside.
    for (const child of (await this.#childrenOf(root)).reverse())
      // Of a frame only what it holds counts: the frames of all programs belong to the window manager.
      for (const window of [...(await this.#childrenOf(child)), child]) {
        const program = this.#programOf(window);
        if (program === own || this.#keptOut.has(program) || found.has(program)) continue;
        const how = await this.#x
          .ask<{ mapState: number }>((cb) => client.GetWindowAttributes(window, cb))
          .catch(() => undefined);
        if (how?.mapState !== VIEWABLE) continue;
        const title = await this.#titleOf(window, name);
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
      const inside = known.isHidden ? await this.#childrenOf(window) : [];
      known.isHidden = this.#isHiddenProgram(window) || inside.some((child) => this.#isHiddenProgram(child));
    }
    this.#restIfNothingIsHidden();
    this.onUncovered();
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
    const name = await this.#x.atom('WM_NAME');
    let found = 0;
    const visit = async (window: number, depth: number): Promise<void> => {
      const title = await this.#titleOf(window, name);
      if (title.toLowerCase().includes(words.toLowerCase())) {
        found++;
        await this.hideProgramOf(window);
      }
      const children = await this.#childrenOf(window);
      if (depth > 0) for (const child of children) await visit(child, depth - 1);
    };
    await visit(root, 3);
    return found;
  }

  /** Empty when it has none, or is gone meanwhile. */
  #titleOf(window: number, name: number): Promise<string> {
    return this.#x
      .ask<{ data: Buffer }>((cb) => this.#x.client.GetProperty(0, window, name, 0, 0, 256, cb))
      .then(({ data }) => data.toString('utf8'))
      .catch(() => '');
  }

  #programOf = (window: number): number => (window & ~this.#resourceMask) >>> 0;
  #isHiddenProgram = (window: number): boolean => this.#programs.has(this.#programOf(window));

  #childrenOf(window: number): Promise<number[]> {
    return (
      this.#x
        .ask<{ children: number[] }>((cb) => this.#x.client.QueryTree(window, cb))
        .then(({ children }) => children)
        // Gone meanwhile: it shows nothing any longer.
        .catch(() => [])
    );
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
        this.#childrenOf(window),
      ]);
      const isHidden = this.#isHiddenProgram(window) || inside.some((child) => this.#isHiddenProgram(child));
      const known = this.#windows.get(window);
      // What events have said meanwhile is newer than this answer's place, but not its kind.
      if (known) known.isHidden ||= isHidden;
      else this.#windows.set(window, { rect: rectOf(at), isMapped: how.mapState === VIEWABLE, isHidden });
    } catch (error) {
      if (this.#x.isGone) throw error;
      // Gone meanwhile.
    }
  }

  /** While nothing is hidden, too: a window that moves then lies elsewhere when it is hidden again. */
  #follow(event: XEvent): void {
    const { root } = this.#x;
    switch (event.name) {
      case 'CreateNotify':
        if (event['parent'] === root && event.wid !== undefined)
          this.#windows.set(event.wid, {
            rect: rectOfEvent(event),
            isMapped: false,
            isHidden: this.#isHiddenProgram(event.wid),
          });
        break;
      case 'ConfigureNotify':
        this.#change(event['wid1'] as number, (w) => (w.rect = rectOfEvent(event)));
        break;
      case 'MapNotify':
        this.#change(event.wid, (w) => (w.isMapped = true));
        break;
      case 'UnmapNotify':
        this.#change(event.wid, (w) => (w.isMapped = false));
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
          this.#windows.set(event.wid, {
            rect: { x: event.x ?? 0, y: event.y ?? 0, width: 0, height: 0 },
            isMapped: false,
            isHidden: this.#isHiddenProgram(event.wid),
          });
        else {
          this.#change(event.wid, (w) => (w.isMapped = false));
          this.#windows.delete(event.wid);
          const frame = this.#windows.get(parent);
          if (frame && this.#isHiddenProgram(event.wid)) frame.isHidden = true;
        }
        break;
      }
      case 'DamageNotify':
        if (event['damage'] === this.#damage)
          this.#drawn(event['area'] as { x: number; y: number; w: number; h: number });
        break;
    }
  }

  /** A hidden window that changes leaves an area behind. */
  #change(window: number | undefined, change: (window: TopWindow) => void): void {
    const known = window === undefined ? undefined : this.#windows.get(window);
    if (!known) return;
    const before = { ...known };
    change(known);
    const isSame = before.isMapped === known.isMapped && JSON.stringify(before.rect) === JSON.stringify(known.rect);
    if (!before.isHidden || !before.isMapped || isSame) return;
    this.#left.push(before.rect);
    if (this.#left.length > MAX_PIECES) this.#left = [boundsOf(this.#left)];
    this.#redrawSoon();
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

  #drawn({ x, y, w, h }: { x: number; y: number; w: number; h: number }): void {
    if (!this.#left.length) return;
    this.#left = this.#left.flatMap((rect) => without(rect, { x, y, width: w, height: h }));
    this.#restIfNothingIsHidden();
    this.#uncoverTimer ??= setTimeout(() => {
      this.#uncoverTimer = undefined;
      this.onUncovered();
    }, UNCOVER_MS);
  }

  /** What was closed a moment ago is known to be gone while it is still hidden, so that what it leaves is covered. */
  async #hearWhatWent(): Promise<void> {
    if (!this.#x.isGone) await this.#x.flush().catch(() => undefined); // The server went; whoever follows it knows.
  }
  #restIfNothingIsHidden(): void {
    if (this.#programs.size || this.#left.length || this.#damage === undefined) return;
    this.#changes.Destroy(this.#damage);
    this.#damage = undefined;
  }
}
