import { Listeners } from '@porch/client';
import type { ProgramWindows, ShownNow } from '@porch/host';
import type { Rect } from '@porch/screen';
import type { Damage, Shape, XEvent } from 'x11';
import type { XConnection } from '../server/connection.ts';
import { contains } from '../server/box.ts';
import { topOfKeyboard } from './keyboard.ts';
import { LeftAreas } from './left-areas.ts';
import { OneProgram } from './one-program.ts';
import { programsToChoose, windowsTitled } from './program-list.ts';
import { EVERYWHERE } from './seen-of-one.ts';
import { drawnOf, isOfAny, partsOf, type TopWindow } from './top-window.ts';
import { WindowKinds } from './window-kinds.ts';
import { WindowStack } from './window-stack.ts';

/** What belongs to the server itself, as the window that a compositor draws on. */
const SERVER = 0;

/**
 * What of the screen must never leave this computer, as windows lie at the moment at which a picture is taken: windows of
 * hidden programs, or all but those of one program. All windows of a program count, pop-ups and dialogs too. An area that
 * something hidden has left stays covered until something has been drawn over all of it: until then it may still show what
 * was hidden. Of what is hidden shapes are not looked at; the whole rectangle is covered.
 */
export class HiddenWindows {
  readonly #x: XConnection;
  readonly #programs = new Set<number>();
  /** Those of them that nobody can choose to show. */
  readonly #keptOut = new Set<number>();
  readonly #stack: WindowStack;
  readonly #left: LeftAreas;
  readonly #kinds: WindowKinds;
  readonly #own: number;
  readonly #listeners = new Listeners<{ shown: undefined }>();
  /** By their numbers, as they were listed last: the title that stood there. */
  #listed: ReadonlyMap<number, string> = new Map();
  /** How many wish that no notification is shown. */
  #wantNone = 0;
  #one: OneProgram | undefined;
  /** A window that lies over the screen, and not over the picture. */
  coverWindow: number | undefined;
  /** Set by whoever takes pictures: something else is covered than before. */
  onCoverChanged: () => void = () => undefined;
  /** Set by whoever takes pictures: resolves once they are taken as one program alone needs it, or no longer. */
  onOneChanged: () => Promise<void> = () => Promise.resolve();

  constructor(x: XConnection, { damage, shape }: { readonly damage: Damage; readonly shape: Shape }) {
    this.#x = x;
    this.#kinds = new WindowKinds(x);
    this.#left = new LeftAreas(x, damage, () => {
      this.#restIfNothingIsHidden();
      this.onCoverChanged();
    });
    this.#stack = new WindowStack(x, shape, {
      changing: (window, change) => this.#follow(window, change),
      mapping: (window) => {
        if (this.#wantNone) this.#doubt(window);
      },
    });
    this.#own = this.#programOf(x.client.display.resource_base);
    x.client.on('event', (event) => this.#hear(event));
  }

  /** What must be covered in a picture taken at this point of the server's stream. */
  get rects(): Rect[] {
    // A window that is somewhere may be anywhere.
    if (this.#stack.isAnyLost && (this.#programs.size || this.#one)) return [EVERYWHERE];
    const rects = [...this.#left.rects];
    // For each piece of each picture: nothing is made of windows that are just there.
    for (const window of this.#stack.all)
      if (window.parts.size || this.#hidesWhole(window)) rects.push(...this.#coveredOf(window));
    if (this.#one) rects.push(...this.#one.unseen);
    return rects;
  }

  /** Whether this window, a child of the root, must not be seen at all. */
  hides(window: number): boolean {
    const known = this.#stack.at(window);
    if (!known) return this.#one !== undefined || this.#programs.has(this.#programOf(window));
    return this.#hidesWhole(known) || (this.#one?.isOther(known) ?? false);
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
    const known = this.#stack.at(window);
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
    const there = this.#stack.all.filter(({ isMapped, isKeptOut }) => isMapped && !isKeptOut);
    const found = await Promise.all(
      there.map(async (window) => ((await this.#kinds.isNotification(window.id)) ? window : [])),
    );
    for (const window of found.flat()) this.#follow(window, () => (window.isKeptOut = true));
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
    const isNoChoice = (program: number) => program === this.#own || this.#keptOut.has(program);
    const found = await programsToChoose(this.#x, this.#kinds, this.#programOf, isNoChoice);
    this.#listed = found;
    const one = this.#one?.isClosed ? undefined : this.#one?.program;
    return [...found].map(([program, title]) => ({
      program,
      title,
      isHidden: this.#programs.has(program),
      isOnlyOne: program === one,
    }));
  }

  /** Exactly these programs are hidden from now on. What is shown again is fetched anew. */
  async setHidden(chosen: readonly number[]): Promise<void> {
    const programs = [...chosen, ...this.#keptOut];
    const shownAgain = [...this.#programs].some((program) => !programs.includes(program));
    for (const program of programs) if (!this.#programs.has(program)) await this.hideProgramOf(program);
    if (!shownAgain) return;
    for (const program of [...this.#programs]) if (!programs.includes(program)) this.#programs.delete(program);
    this.#one?.changed();
    this.#restIfNothingIsHidden();
    this.onCoverChanged();
  }

  /** Whether the person here keeps windows of any program to themselves. */
  readonly hidesAny = (): boolean => [...this.#programs].some((program) => !this.#keptOut.has(program));
  get shown(): ShownNow {
    if (!this.#one) return { what: 'everything' };
    return { what: this.#one.isClosed ? 'nothing' : 'program', title: this.#one.title };
  }
  onShownChanged = (listener: () => void): (() => void) => this.#listeners.on('shown', listener);

  /** Nothing but the windows of this program, as it was listed, is shown from now on; undefined: of all that are not hidden. */
  async showOnly(program: number | undefined): Promise<void> {
    if (program === undefined) {
      if (!this.#one) return;
      this.#one = undefined;
      this.#stack.asksWhatIsDrawn = false;
      this.#restIfNothingIsHidden();
    } else {
      const title = this.#listed.get(program);
      if (title === undefined) throw new Error('only a program that was listed can be shown alone');
      this.#stack.asksWhatIsDrawn = true;
      await this.#learnAll();
      this.#one = new OneProgram({
        ...{ x: this.#x, program, title, isLeftOut: this.#isLeftOut, hidesWhole: this.#hidesWhole },
        windows: () => this.#stack.all,
        left: (area) => this.#left.add(area),
        closed: () => this.#tellShown(),
      });
    }
    this.#tellShown();
    await this.onOneChanged();
  }

  /** Whether whoever presses there presses something that can be seen. */
  isInReach(x: number, y: number): boolean {
    const at = this.#stack.all.findLast(
      (window) =>
        window.isMapped &&
        !this.#isLeftOut(window) &&
        (Array.isArray(window.drawn) ? drawnOf(window) : [window.rect]).some((rect) => contains(rect, x, y)),
    );
    return at ? !this.hides(at.id) : this.#one === undefined;
  }

  /** Whether what is typed now goes to something that can be seen. */
  async isKeyboardInReach(): Promise<boolean> {
    if (!this.#one && !this.#programs.size) return true;
    const at = await topOfKeyboard(this.#x);
    if (at === 'nobody') return true;
    if (at === 'root') return this.#one === undefined;
    return typeof at === 'number' ? !this.hides(at) : this.isInReach(at.x, at.y);
  }

  /** Nothing of Doorstep's own is in the picture meanwhile, whoever may look. */
  async whileOwnIsHidden<T>(work: () => Promise<T>): Promise<T> {
    await this.hideProgramOf(this.#own);
    try {
      return await work();
    } finally {
      await this.#hearWhatWent();
      await this.setHidden([...this.#programs].filter((program) => program !== this.#own));
    }
  }

  /** Hides every program that has a window with such words in its title. */
  async hideTitled(words: string): Promise<number> {
    const found = await windowsTitled(this.#x, this.#kinds, words);
    for (const window of found) await this.hideProgramOf(window);
    return found.length;
  }

  #programOf = (window: number): number => this.#stack.programOf(window);
  #hidesWhole = (window: TopWindow): boolean =>
    window.isKeptOut || (this.#programs.size > 0 && isOfAny(window, this.#programs));
  /** Neither shown nor over anything: Doorstep's own, which technicians may see, and what no picture is taken of. */
  #isLeftOut = ({ id, program }: TopWindow): boolean =>
    id === this.coverWindow || program === SERVER || (program === this.#own && !this.#programs.has(program));
  /** What of a window must be covered because of what it is. */
  #coveredOf(window: TopWindow): Rect[] {
    if (!window.isMapped) return [];
    return this.#hidesWhole(window) ? [window.rect] : partsOf(window);
  }

  async #learnAll(): Promise<void> {
    this.#left.begin();
    await this.#stack.learnAll();
    this.#one?.changed();
  }

  /** While nothing is hidden, too: a window that moves then lies elsewhere when it is hidden again. */
  #hear(event: XEvent): void {
    if (this.#left.follow(event)) return;
    this.#one?.hear(event);
    this.#stack.follow(event);
  }

  #doubt(window: TopWindow): void {
    if (window.isKeptOut) return;
    window.isKeptOut = true;
    this.#kinds
      .isNotification(window.id)
      .then((isOne) => {
        if (isOne) return;
        window.isKeptOut = false;
        this.#one?.changed();
        this.onCoverChanged();
      })
      .catch(() => undefined); // The server went; whoever follows it knows.
  }

  /** A hidden window that changes leaves an area behind; so does whatever lay over the one program that is shown. */
  #follow(window: TopWindow | undefined, change: () => void): void {
    const before = window ? this.#coveredOf(window) : [];
    const from = window?.rect;
    change();
    if (window) {
      if (from && window.isMapped && (from.x !== window.rect.x || from.y !== window.rect.y))
        this.#left.moved(from, window.rect);
      const after = this.#coveredOf(window).map((rect) => JSON.stringify(rect));
      for (const rect of before) if (!after.includes(JSON.stringify(rect))) this.#left.add(rect);
    }
    this.#one?.changed(window);
  }

  #tellShown(): void {
    this.#listeners.emit('shown', undefined);
    this.onCoverChanged();
  }

  /** What was closed a moment ago is known to be gone while it is still hidden, so that what it leaves is covered. */
  async #hearWhatWent(): Promise<void> {
    if (!this.#x.isGone) await this.#x.flush().catch(() => undefined); // The server went; whoever follows it knows.
  }
  #restIfNothingIsHidden(): void {
    const isAnyCovered = () => this.#stack.all.some((window) => window.parts.size > 0 || this.#hidesWhole(window));
    if (!this.#programs.size && !this.#wantNone && !this.#one && !isAnyCovered()) this.#left.rest();
  }
}
