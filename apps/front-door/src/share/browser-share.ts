import { POINT_MS, SealedLine, withMark, withoutMark, type LiveConnection, type ShownMark } from '@porch/client';
import { isOver, presentParticipants, rulesOf, type OpenAsk, type Participant } from '@porch/core';
import { GRANT_MS, GrantBook, type Watcher } from '@porch/host';
import { drawingChannel, pictureChannel, startOf, type DrawingMessage, type PictureMessage } from '@porch/wire';
import { shallowRef } from 'vue';
import { t } from '../words/index.ts';
import type { FromShareWorker, ToShareWorker } from './share-messages.ts';

const MOST_FRAMES_PER_SECOND = 30;
/** Enough to read a label; a camera's picture changes everywhere at once and costs what it shows. */
const CAMERA_SIZE = { width: { ideal: 1280 }, height: { ideal: 720 }, frameRate: { ideal: 10, max: 15 } };

/** What W3C Insertable Streams for media adds, as far as it is used here. */
declare const MediaStreamTrackProcessor: new (init: { track: MediaStreamTrack }) => {
  readable: ReadableStream<VideoFrame>;
};

/** What a browser can capture, as the standard names it; the words for each are in `words/`. */
const surfaces = ['browser', 'window', 'monitor'] as const;

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
  #lastMark = 0;
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<PictureMessage>;
  readonly #offs: (() => void)[];
  #grants: GrantBook | undefined;
  #stream: MediaStream | undefined;
  #worker: Worker | undefined;
  #isOffering = false;

  static readonly #canCapture = 'MediaStreamTrackProcessor' in globalThis && 'mediaDevices' in navigator;
  /** Shows the thing on the desk: what a telephone can do that captures no screen. */
  static readonly hasCamera = BrowserShare.#canCapture && 'getUserMedia' in navigator.mediaDevices;

  /** Telephones and some browsers capture no screen, and none does on a page that came unencrypted over a network. */
  static readonly isPossible = BrowserShare.#canCapture && 'getDisplayMedia' in navigator.mediaDevices;
  static readonly canShowAnything = BrowserShare.isPossible || BrowserShare.hasCamera;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, pictureChannel);
    const drawing = new SealedLine(connection, drawingChannel);
    const mayLook = ({ seat }: { seat: number }) => this.#viewerAt(seat) !== undefined;
    this.#offs = [
      connection.on('entry', () => this.#follow()),
      connection.on('caughtUp', () => this.#follow()),
      connection.on('viewers', () => this.#tellWatchers()),
      connection.on('room', () => this.#tellRoom()),
      connection.on('status', (status) => {
        // Without the service nobody watches; what was allowed stays, for the line may come back.
        if (status !== 'live') connection.viewers = [];
        this.#tellWatchers();
      }),
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'screen' && frame.senderSeat === 0) this.#post({ type: 'relay', bytes: bytes.slice() });
      }),
      this.#line.listen(({ from, message }) => this.#post({ type: 'look', seat: from.seat, message }), mayLook),
      drawing.listen(({ from, message }) => this.#takeMark(from.seat, message), mayLook),
    ];
  }

  /** Lets the person choose what is seen, and allows exactly that. A press of theirs must have led here. */
  async allow(ask: OpenAsk, what: 'screen' | 'camera' = 'screen'): Promise<void> {
    const connection = this.#connection;
    this.trouble.value = '';
    if (ask.permissions.includes('view-screen') && !this.#stream && !(await this.#choose(what))) return;
    const technician = connection.state.participants[ask.participantId];
    if (!technician || technician.isGone || !connection.state.asks[ask.id]) {
      this.#follow();
      return;
    }
    this.#grants ??= new GrantBook(connection.keys, connection.sessionId, connection.state.lastGrantNumber);
    const nowMs = connection.serviceNowMs;
    const chosen = ask.permissions.filter((p) => rulesOf(p).worksInBrowser);
    const grants = this.#grants.grantChosen(chosen, technician, connection.state, {
      nowMs,
      endsAtMs: nowMs + GRANT_MS,
    });
    try {
      await connection.command({ type: 'grantAsk', askId: ask.id, grants });
    } catch (error) {
      for (const permission of ask.permissions) this.#grants.drop(permission, technician.signKey);
      this.#follow();
      throw error;
    }
    this.#tellWatchers();
  }

  /** Nobody sees anything from now on; the service hears of it when it can. */
  stop(why: string): void {
    this.#endCapture();
    for (const technician of presentParticipants(this.#connection.state, 'technician'))
      this.#connection
        .command({
          type: 'withdrawPermission',
          participantId: technician.id,
          permission: 'view-screen',
          why,
          fact: undefined,
        })
        .catch((error: unknown) => (this.trouble.value = String(error)));
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#endCapture();
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
          ? t('share.nothingChosen')
          : t('share.cannot');
      return false;
    }
    const [track] = stream.getVideoTracks();
    if (!track) return false;
    const surface =
      what === 'camera' ? what : (surfaces.find((s) => s === track.getSettings().displaySurface) ?? 'other');
    const name = t(`share.${surface}`);
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
    this.#begin(track, name);
    return true;
  }

  #begin(track: MediaStreamTrack, name: string): void {
    const connection = this.#connection;
    const worker = new Worker(new URL('./share-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<FromShareWorker>) => {
      if (this.#worker === worker) this.#handle(data);
    };
    worker.onerror = (event) => (this.trouble.value = `The picture stopped: ${event.message}`);
    this.#worker = worker;
    const frames = new MediaStreamTrackProcessor({ track }).readable;
    const { sessionId, seat, keys } = connection;
    this.#post(
      { type: 'begin', sessionId, seat, sourceStart: startOf(keys), name: `From the browser: ${name}`, frames },
      [frames as unknown as Transferable],
    );
    this.#tellRoom();
    this.#tellWatchers();
  }

  #endCapture(): void {
    this.#grants = undefined;
    this.#worker?.terminate();
    this.#worker = undefined;
    const stream = this.#stream;
    this.#stream = undefined;
    for (const track of stream?.getTracks() ?? []) track.stop();
    this.showing.value = '';
    this.stream.value = undefined;
    this.marks.value = [];
  }

  #handle(message: FromShareWorker): void {
    if (message.type === 'frame') {
      this.#connection.sendFrame(message.bytes);
      this.#tellRoom();
    } else if (message.type === 'tell') this.#line.send(message.seat, message.message);
    else this.trouble.value = message.what;
  }

  /** Follows what the session says. It can only ever take away, or let this page be asked. */
  #follow(): void {
    const { state, status, participantId } = this.#connection;
    const isHolder = state.holderId === participantId;
    if (isOver(state) || (status === 'live' && !isHolder)) this.#endCapture();
    this.#grants?.follow(state);
    this.#dropMarks();
    // What nobody may see is not captured either.
    if (!this.#grants || this.#grants.isEmpty) this.#endCapture();
    this.#tellWatchers();
    if (!state.hasAccepted || isOver(state) || state.holderId || status !== 'live') return;
    if (this.#isOffering || !BrowserShare.canShowAnything) return;
    this.#isOffering = true;
    this.#connection
      .command({ type: 'offerOwnPicture' })
      .catch((error: unknown) => (this.trouble.value = String(error)))
      .finally(() => (this.#isOffering = false));
  }

  /** Drawn only with a grant of this page's own for it; a point goes by itself. */
  #takeMark(seat: number, message: DrawingMessage): void {
    const signKey = this.#viewerAt(seat)?.signKey;
    if (!signKey || !this.#grants?.holds('draw-on-screen', signKey, this.#connection.serviceNowMs)) return;
    if (message.type === 'unmark') {
      this.marks.value = withoutMark(this.marks.value, seat, message.which);
      return;
    }
    const id = ++this.#lastMark;
    this.marks.value = withMark(this.marks.value, { id, seat, mark: message.mark });
    if (message.mark.kind === 'point')
      setTimeout(() => (this.marks.value = this.marks.value.filter((m) => m.id !== id)), POINT_MS);
  }

  /** What was drawn goes with the right to draw. */
  #dropMarks(): void {
    const kept = this.marks.value.filter(({ seat }) => {
      const signKey = this.#viewerAt(seat)?.signKey;
      return signKey && this.#grants?.holds('draw-on-screen', signKey, this.#connection.serviceNowMs);
    });
    if (kept.length !== this.marks.value.length) this.marks.value = kept;
  }

  /** The grant decides, not the service's list. */
  #viewerAt(seat: number): Participant | undefined {
    const { state, serviceNowMs } = this.#connection;
    const technician = Object.values(state.participants).find((p) => p.seat === seat && !p.isGone);
    return technician && this.#grants?.holds('view-screen', technician.signKey, serviceNowMs) ? technician : undefined;
  }

  #tellWatchers(): void {
    // A private moment: nobody is given anything, and a new key keeps out whoever had the old one.
    const isPrivate = this.#connection.state.slices.presence.privateAt.length > 0;
    const watchers: Watcher[] = (isPrivate ? [] : this.#connection.viewers).flatMap(({ seat, displays }) => {
      const viewer = this.#viewerAt(seat);
      return viewer ? [{ seat, displays, start: startOf(viewer) }] : [];
    });
    this.#tellRoom();
    this.#post({ type: 'watchers', watchers });
  }

  #tellRoom(): void {
    if (!this.#worker) return;
    const { hasRoom, messageBytes, bytesPerSecond } = this.#connection;
    this.#post({ type: 'room', room: { hasRoom, messageBytes, bytesPerSecond } });
  }

  #post(message: ToShareWorker, transfer: Transferable[] = []): void {
    this.#worker?.postMessage(message, transfer);
  }
}
