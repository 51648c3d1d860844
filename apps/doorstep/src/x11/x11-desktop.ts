import { Listeners } from '@porch/client';
import type { WhyNot } from '@porch/core';
import type { Desktop, DesktopPorts } from '../desktop/desktop.ts';
import { X11Banner } from './banner/x11-banner.ts';
import { X11Clipboard } from './clipboard/x11-clipboard.ts';
import type { PressGuard } from './hands/injector.ts';
import { x11HandsOff } from './hands-off/x11-hands-off.ts';
import { X11Hands } from './hands/x11-hands.ts';
import { HiddenWindows } from './hiding/hidden-windows.ts';
import { allTitles } from './hiding/program-list.ts';
import { WindowKinds } from './hiding/window-kinds.ts';
import { x11Hiding } from './hiding/x11-hiding.ts';
import { InkPace } from './server/ink-pace.ts';
import { X11Ink } from './ink/x11-ink.ts';
import { X11Person } from './person/x11-person.ts';
import { x11LinesWindow } from './shown/x11-lines-window.ts';
import { x11ShownScreen } from './shown/x11-shown-screen.ts';
import { X11Secrets } from './secrets/x11-secrets.ts';
import { PasswordFocus } from '../accessibility/password-focus.ts';
import { X11Screen } from './screen/x11-screen.ts';
import { XConnection } from './server/connection.ts';
import { findExtensions, type ScreenExtensions } from './server/extensions.ts';
import { readMonitors } from './server/monitors-now.ts';
import type { Wishes } from './wishes.ts';

/** A real X11 desktop: a port for each thing that its server can do. */
export class X11Desktop implements Desktop {
  readonly name: string;
  readonly ports: DesktopPorts;
  readonly lacking: readonly string[];
  readonly #x: XConnection;
  readonly #hands: X11Hands | undefined;
  readonly #clipboard: X11Clipboard | undefined;
  readonly #secrets: X11Secrets | undefined;
  readonly #randr: ScreenExtensions['randr'] | undefined;
  readonly #missing: { hands?: WhyNot };
  readonly #listeners = new Listeners<{ missing: undefined }>();

  private constructor(
    name: string,
    x: XConnection,
    ports: DesktopPorts,
    missing: { hands?: WhyNot },
    open: {
      readonly hands: X11Hands | undefined;
      readonly clipboard: X11Clipboard | undefined;
      readonly secrets: X11Secrets | undefined;
      readonly randr: ScreenExtensions['randr'] | undefined;
    },
    lacking: readonly string[],
  ) {
    this.name = name;
    this.#x = x;
    this.#missing = missing;
    this.ports = { ...ports, missing, onMissingChanged: (listener) => this.#listeners.on('missing', listener) };
    this.#hands = open.hands;
    this.#clipboard = open.clipboard;
    this.#secrets = open.secrets;
    this.#randr = open.randr;
    this.lacking = lacking;
  }

  /** Throws DisplayGone when there is no such server, or none on which anybody could be asked anything. */
  static async open(display: string, onError: (error: Error) => void, guard: PressGuard): Promise<X11Desktop> {
    const x = await XConnection.open(display, onError);
    const { basic, screen: pixels, hasBeneath, xtest, lacking } = await findExtensions(x);
    const wishes = new Listeners<Wishes>();
    const pace = new InkPace();
    const hidden = pixels && new HiddenWindows(x, { ...pixels, ...basic });
    // Where no picture leaves the computer nothing has to be kept out of it.
    const person = await X11Person.open(x, basic.xinput, wishes, (put) =>
      hidden ? hidden.whileOwnIsHidden(put) : put(),
    );
    const hands = xtest && (await X11Hands.open(x, xtest, guard));
    const missing: NonNullable<DesktopPorts['missing']> = {
      ...(pixels
        ? {}
        : {
            screen: 'computer-cannot',
            hiding: 'computer-cannot',
            ink: 'computer-cannot',
            clipboard: 'computer-cannot',
            shownScreen: 'computer-cannot',
            linesWindow: 'computer-cannot',
          }),
      ...(pixels && hands ? {} : { handsOff: 'computer-cannot' }),
      ...(hands ? {} : { hands: 'computer-cannot' }),
    };
    const clipboard = pixels && (await X11Clipboard.open(display));
    const screen = pixels && hidden && (await X11Screen.open(x, { ...pixels, ...basic }, hidden, pace));
    const secrets = hidden && new X11Secrets(x, hidden, new PasswordFocus(process.env));
    const ports: DesktopPorts = {
      person,
      banner: new X11Banner(x, basic, wishes),
      ...(hidden && clipboard && screen
        ? {
            screen,
            hiding: x11Hiding(hidden),
            ink: new X11Ink(x, basic, wishes, pace),
            clipboard,
            shownScreen: x11ShownScreen(display, hidden),
            linesWindow: x11LinesWindow(display, hidden),
          }
        : {}),
      ...(secrets ? { secrets } : {}),
      ...(hands ? { hands } : {}),
      ...(hands && screen ? { handsOff: x11HandsOff(display, hasBeneath, (cover) => screen.lookBeneath(cover)) } : {}),
    };
    return new X11Desktop(display, x, ports, missing, { hands, clipboard, secrets, randr: pixels?.randr }, lacking);
  }

  async displays(): Promise<{ name: string; width: number; height: number }[]> {
    if (!this.#randr) return [{ name: 'Screen', ...(await this.#x.size()) }];
    const monitors = await readMonitors(this.#x, this.#randr.majorOpcode);
    return monitors.map(({ name, rect: { width, height } }) => ({ name, width, height }));
  }

  async titles(): Promise<readonly string[]> {
    return [...new Set((await allTitles(this.#x, new WindowKinds(this.#x))).values())];
  }

  onGone(listener: (why: Error) => void): void {
    this.#x.onGone(listener);
  }
  releaseAll(): void {
    this.#hands?.releaseAll();
  }
  /** Nobody would let go for us if we died: from now on nothing can be pressed here. */
  giveUpHands(): void {
    this.releaseAll();
    this.#missing.hands = 'computer-cannot';
    this.#listeners.emit('missing', undefined);
  }

  async close(): Promise<void> {
    await this.ports.banner.showBanner(undefined);
    await this.#hands?.close();
    this.#clipboard?.close();
    this.#secrets?.close();
    this.#x.close();
  }
}
