import { setTimeout as sleep } from 'node:timers/promises';
import { inBackground, Listeners } from '@porch/client';
import type { PasswordField, SecretsPort } from '@porch/host';
import type { Rect } from '@porch/screen';
import type { FocusedPassword, PasswordFocus } from '../../accessibility/password-focus.ts';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import type { XConnection } from '../server/connection.ts';
import { focusedWindow, type FocusedWindow } from './focused-window.ts';
import { whereIn } from './where-in.ts';

/** So often it is looked where the field lies; sooner while nobody is sure. */
const LOOK_MS = 120;
const DOUBT_MS = 40;
/** A window that was moved just now is said to be elsewhere for a moment; after so many looks it is not covered any longer. */
const MOST_DOUBTS = 5;

interface Cover {
  readonly top: number;
  readonly part: Rect;
  end(): void;
}

/**
 * Fields for passwords and notifications on an X11 desktop. A field is covered only where two who know nothing of each
 * other agree: its program says where its window and the field lie, and the X server says where the window with the keyboard
 * lies, and that it is that program's. Until that is known the whole window is covered.
 */
export class X11Secrets implements SecretsPort {
  readonly #x: XConnection;
  readonly #hidden: HiddenWindows;
  readonly #focus: PasswordFocus;
  readonly #listeners = new Listeners<{ password: PasswordField | undefined }>();
  #cover: Cover | undefined;
  #told: PasswordField | undefined;

  constructor(x: XConnection, hidden: HiddenWindows, focus: PasswordFocus) {
    this.#x = x;
    this.#hidden = hidden;
    this.#focus = focus;
    focus.onChanged = (field) => {
      if (field) this.#inBackground(this.#watch(field));
      else this.#forget();
    };
  }

  get noticesPasswords(): boolean {
    return this.#focus.isThere;
  }
  onPassword = (listener: (field: PasswordField | undefined) => void): (() => void) =>
    this.#listeners.on('password', listener);

  keepNotificationsOut(): () => void {
    const begun = this.#hidden.keepNotificationsOut();
    this.#inBackground(begun);
    return () => this.#inBackground(begun.then((end) => end()));
  }

  close(): void {
    this.#focus.close();
  }

  async #watch(field: FocusedPassword): Promise<void> {
    for (let doubts = 0; this.#isNow(field); await sleep(doubts ? DOUBT_MS : LOOK_MS)) {
      const window = await focusedWindow(this.#x).catch(() => undefined); // It went just now.
      if (this.#x.isGone || !this.#isNow(field)) return;
      if (window && window.pid !== field.pid) {
        // Another window has the keyboard: nothing is typed there now, and the field stays as it is.
        this.#tell(undefined);
        continue;
      }
      const part = window && (await this.#partOf(field, window));
      if (!this.#isNow(field)) return;
      doubts = part ? 0 : doubts + 1;
      if (part) {
        await this.#coverPart(window, part);
        if (this.#isNow(field)) this.#tell({ id: field.id, isCovered: true });
      } else if (doubts > MOST_DOUBTS || !window) {
        this.#uncover();
        this.#tell({ id: field.id, isCovered: false });
      }
    }
  }

  /** Where it certainly lies; undefined while nobody is sure. Everything of its window is covered then. */
  async #partOf(field: FocusedPassword, window: FocusedWindow): Promise<Rect | undefined> {
    const isKnown = this.#cover?.top === window.top;
    if (!isKnown) await this.#coverPart(window, wholeOf(window));
    const place = await field.place().catch(() => undefined); // Its program says nothing just now.
    const part = place && whereIn(place, window);
    if (!part && isKnown && this.#isNow(field)) await this.#coverPart(window, wholeOf(window));
    return part;
  }

  async #coverPart({ top }: FocusedWindow, part: Rect): Promise<void> {
    const before = this.#cover;
    if (before?.top === top && JSON.stringify(before.part) === JSON.stringify(part)) return;
    const end = await this.#hidden.coverPart(top, part);
    if (!end) return;
    // The new one first: nothing is seen in between.
    this.#cover = { top, part, end };
    before?.end();
  }
  #uncover(): void {
    this.#cover?.end();
    this.#cover = undefined;
  }

  #forget(): void {
    this.#uncover();
    this.#tell(undefined);
  }
  #tell(field: PasswordField | undefined): void {
    if (field?.id === this.#told?.id && field?.isCovered === this.#told?.isCovered) return;
    this.#told = field;
    this.#listeners.emit('password', field);
  }

  #isNow = (field: FocusedPassword): boolean => this.#focus.field === field && !this.#x.isGone;
  #inBackground(work: Promise<unknown>): void {
    inBackground(
      'following what is typed for nobody else',
      work.catch((error: unknown) => {
        // The server went; whoever follows it knows.
        if (!this.#x.isGone) throw error;
      }),
    );
  }
}

const wholeOf = ({ topRect: { width, height } }: FocusedWindow): Rect => ({ x: 0, y: 0, width, height });
