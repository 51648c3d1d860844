import { Listeners, PictureLine, SealedLine, type LiveConnection, type ShownMark } from '@porch/client';
import { isOver, presentOf, rulesOf, showingPermissions, type OpenAsk } from '@porch/core';
import type { Host } from '@porch/host';
import { canCapture, canCaptureScreen, MOST_FRAMES_PER_SECOND, PageShare, surfaceOf } from '@porch/pages/share';
import { pictureChannel, type Mark, type MarkMessage, type PictureMessage } from '@porch/wire';
import { shallowRef } from 'vue';
import { w } from '../words/index.ts';
import type { PageEnd } from './page-host.ts';
import { PageCamera } from './page-camera.ts';
import { PageShown } from './page-shown.ts';
import { PageVoice } from './page-voice.ts';

/** Enough to read a label; a camera's picture changes everywhere at once and costs what it shows. */
const CAMERA_SIZE = { width: { ideal: 1280 }, height: { ideal: 720 }, frameRate: { ideal: 10, max: 15 } };

/**
 * Shows a tab, a window or a screen from this page, with nothing installed. This page holds the consent to its own
 * picture: it asks, signs, and stops at once, whatever the service says. It can be looked at only.
 */
export class BrowserShare {
  /** What is shown just now, in the customer's words; empty while nothing is. */
  readonly showing = shallowRef('');
  readonly trouble = shallowRef('');
  /** What is shown, for a copy in this page, and what was pointed at and drawn on it. */
  readonly stream = shallowRef<MediaStream>();
  readonly marks = shallowRef<readonly ShownMark[]>([]);
  readonly voice = new PageVoice();
  readonly camera = new PageCamera();
  readonly shown = new PageShown();
  readonly #own = new Listeners<{ mark: MarkMessage }>();
  #lastMark = 0;
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<PictureMessage>;
  readonly #shownLine: PictureLine;
  readonly #offs: (() => void)[];
  #host: Promise<Host> | undefined;
  #isClosed = false;
  #stream: MediaStream | undefined;
  #share: PageShare | undefined;
  #isOffering = false;

  /** Shows the thing on the desk: what a telephone can do that captures no screen. */
  static readonly hasCamera = canCapture && 'getUserMedia' in navigator.mediaDevices;
  static readonly isPossible = canCaptureScreen;
  static readonly canShowAnything = BrowserShare.isPossible || BrowserShare.hasCamera;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, pictureChannel);
    this.#shownLine = new PictureLine(this.#line);
    this.#offs = [
      connection.on('entry', () => this.#follow()),
      connection.on('caughtUp', () => this.#follow()),
      connection.on('room', () => this.#share?.room()),
    ];
  }

  /** Lets the person choose what is seen, and allows exactly that. A press of theirs must have led here. */
  async allow(ask: OpenAsk, what: 'screen' | 'camera' = 'screen'): Promise<void> {
    const connection = this.#connection;
    this.trouble.value = '';
    const needsPicture = ask.permissions.some((permission) => showingPermissions.includes(permission));
    if (needsPicture && !this.#stream && !(await this.#choose(what))) return;
    const host = await (this.#host ??= this.#makeHost());
    // While the host was made, the asking may have ended, or the person pressed Stop.
    if (!connection.state.asks[ask.id] || (needsPicture && !this.#stream)) return this.#follow();
    await host.allow(
      ask.id,
      ask.permissions.filter((permission) => rulesOf(permission).worksInBrowser),
    );
  }

  /** What the person here draws on the copy; everybody who looks sees it. */
  draw(mark: Mark): void {
    this.#own.emit('mark', { type: 'mark', id: ++this.#lastMark, display: 0, fades: false, mark });
  }
  unmark(which: 'last' | 'everybodys'): void {
    this.#own.emit('mark', { type: 'unmark', which });
  }

  /** Nobody sees anything from now on; the service hears of it when it can. */
  stop(why: string): void {
    this.#endCapture({ isOver: false });
    for (const { id: participantId } of presentOf(this.#connection.state, 'desk'))
      for (const permission of showingPermissions)
        this.#connection
          .command({ type: 'withdrawPermission', participantId, permission, why, fact: undefined })
          .catch((error: unknown) => (this.trouble.value = String(error)));
  }

  close(): void {
    this.#isClosed = true;
    this.#offs.forEach((off) => off());
    this.#endCapture({ isOver: true });
    this.#host
      ?.then(async (host) => {
        await host.close();
        host.end();
      })
      .catch((error: unknown) => (this.trouble.value = String(error)));
  }

  /** Loaded when somebody first says yes: a page that shows nothing needs none of it. */
  async #makeHost(): Promise<Host> {
    const end: PageEnd = {
      picture: {
        setWatchers: (watchers) => this.#share?.setWatchers(watchers),
        take: (seat, message) => this.#share?.take(seat, message),
        relay: (frame, bytes) => this.#share?.relay(frame, bytes),
      },
      showMarks: (marks) => (this.marks.value = marks),
      onOwnMark: (listener) => this.#own.on('mark', listener),
      onNobodyMayLook: () => this.#endCapture({ isOver: false }),
      voice: this.voice,
      camera: this.camera,
      shown: this.shown,
      trouble: (what) => (this.trouble.value = what),
    };
    const { pageHost } = await import('./page-host.ts').catch((error: unknown) => {
      this.#host = undefined; // The next yes tries again.
      throw error;
    });
    if (this.#isClosed) throw new Error('the page was closed');
    return pageHost(this.#connection, this.#line, end);
  }

  async #choose(what: 'screen' | 'camera'): Promise<boolean> {
    let stream: MediaStream;
    try {
      stream =
        what === 'camera'
          ? await navigator.mediaDevices.getUserMedia({
              // The one on the back, where there are two.
              video: { facingMode: 'environment', ...CAMERA_SIZE },
              audio: false,
            })
          : await navigator.mediaDevices.getDisplayMedia({
              video: { frameRate: MOST_FRAMES_PER_SECOND },
              audio: false,
            });
    } catch (error) {
      this.trouble.value =
        error instanceof DOMException && error.name === 'NotAllowedError'
          ? w.value.share.nothingChosen
          : w.value.share.cannot;
      return false;
    }
    const [track] = stream.getVideoTracks();
    if (!track) return false;
    const surface = what === 'camera' ? what : surfaceOf(track);
    const name = w.value.share[surface];
    this.#stream = stream;
    this.stream.value = stream;
    this.showing.value = name;
    this.#connection
      .command({ type: 'chooseSource', what: surface })
      .catch((error: unknown) => (this.trouble.value = String(error)));
    // The browser has a stop of its own, too.
    track.addEventListener('ended', () => {
      if (this.#stream === stream) this.stop('stopped in the browser');
    });
    const named = { track, name: `From the browser: ${name}` };
    this.#share = new PageShare(this.#connection, this.#shownLine, named, (trouble) => (this.trouble.value = trouble));
    return true;
  }

  /** `isOver`: nobody may do anything else here, either. */
  #endCapture({ isOver }: { readonly isOver: boolean }): void {
    this.#host
      ?.then((host) => host.holdsNothing || host.giveUp(isOver ? undefined : showingPermissions))
      .catch(() => undefined); // Told where it was made.
    this.#share?.close();
    this.#share = undefined;
    const stream = this.#stream;
    this.#stream = undefined;
    for (const track of stream?.getTracks() ?? []) track.stop();
    this.showing.value = '';
    this.stream.value = undefined;
    this.marks.value = [];
  }

  /** Follows what the session says. It can only ever take away, or let this page be asked. */
  #follow(): void {
    const { state, status, participantId } = this.#connection;
    const isHolder = state.holderId === participantId;
    if (isOver(state) || (status === 'live' && !isHolder)) this.#endCapture({ isOver: true });
    if (!state.hasAccepted || isOver(state) || state.holderId || status !== 'live') return;
    if (this.#isOffering || !BrowserShare.canShowAnything) return;
    this.#isOffering = true;
    this.#connection
      .command({ type: 'offerOwnPicture' })
      .catch((error: unknown) => (this.trouble.value = String(error)))
      .finally(() => (this.#isOffering = false));
  }
}
