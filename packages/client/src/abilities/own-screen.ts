import { participantAt, type OwnSurface, type Participant } from '@porch/core';
import { ownScreenChannel, randomId, startOf, type Frame, type PictureMessage } from '@porch/wire';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { PictureLine } from '../picture-line.ts';
import { SealedLine } from '../sealed-line.ts';
import type { Watcher } from '../watcher.ts';

/** What captures, encodes and sends: in a worker of a page, or in this process. */
export interface OwnScreenSender {
  setWatchers(watchers: readonly Watcher[]): void;
  /** Words of somebody who looks. */
  take(seat: number, message: PictureMessage): void;
  /** The relay asks for something. */
  relay(frame: Frame, bytes: Uint8Array): void;
  /** The line has room for more. */
  room(): void;
  close(): void;
}

/** Why it is over though the technician did not stop it: they closed it, or it is not allowed any longer. */
export type OwnScreenOver = 'closed' | 'not-allowed';

interface Showing {
  readonly id: string;
  readonly what: OwnSurface;
  readonly sender: OwnScreenSender;
  /** Entries that were there before: who closed it is told in a later one. */
  readonly fromEntry: number;
  /** The ledger has said that it began. */
  isBegun: boolean;
}

interface OwnScreenEvents {
  /** It began, somebody looks or does not any longer, or it ended. */
  changed: undefined;
}

/**
 * Shows something of the technician's own to the customer's side, as long as that lets them: what captures ends in the
 * moment in which the ledger says that it is over.
 */
export class TechnicianOwnScreen {
  readonly listeners = new Listeners<OwnScreenEvents>();
  /** Why the last one is over, when the technician did not stop it. */
  over: OwnScreenOver | undefined;
  readonly #connection: LiveConnection;
  readonly #line: PictureLine;
  readonly #offs: (() => void)[];
  #showing: Showing | undefined;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    const line = new SealedLine<PictureMessage>(connection, ownScreenChannel);
    this.#line = new PictureLine(line);
    this.#offs = [
      line.listen(
        ({ from, message }) => this.#showing?.sender.take(from.seat, message),
        (from) => this.#isViewer(from),
      ),
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'screen' && frame.senderSeat === 0) this.#showing?.sender.relay(frame, bytes);
      }),
      connection.on('room', () => this.#showing?.sender.room()),
      connection.on('viewers', () => this.#follow()),
      connection.on('entry', () => this.#follow()),
      connection.on('caughtUp', () => {
        this.#endWhatIsLeft();
        this.#follow();
      }),
      connection.on('status', () => this.#follow()),
    ];
  }

  /** What is shown now; undefined while nothing is. */
  get what(): OwnSurface | undefined {
    return this.#showing?.what;
  }
  /** Whether the customer's side has it open. */
  get isSeen(): boolean {
    return this.#watchers.length > 0;
  }

  /** Shows something else from now on. Throws what the service says when it may not be shown; then nothing was sent. */
  async begin(what: OwnSurface, senderOn: (line: PictureLine) => OwnScreenSender): Promise<void> {
    // The one before gives way without a word: the next event says what is shown instead.
    this.#showing?.sender.close();
    this.over = undefined;
    const { length } = this.#connection.entries;
    const id = randomId(this.#connection.random);
    const showing = { id, what, sender: senderOn(this.#line), fromEntry: length, isBegun: false };
    this.#showing = showing;
    try {
      await this.#connection.command({ type: 'own-screen/begin', showingId: id, what });
    } catch (error) {
      if (this.#showing === showing) this.#close();
      throw error;
    }
    this.#follow();
  }

  /** Nothing more of it is sent from now on. */
  end(): void {
    const id = this.#showing?.id;
    this.#close();
    if (id) this.#tellEnd(id);
  }

  close(): void {
    this.end();
    this.#offs.forEach((off) => off());
    this.listeners.clear();
  }

  #tellEnd(showingId: string): void {
    inBackground(
      'ending what is shown',
      this.#connection.command({ type: 'own-screen/end', showingId }).catch(() => undefined), // Over with the session.
    );
  }

  /** A page that was loaded again shows nothing any longer, though the ledger still says so. */
  #endWhatIsLeft(): void {
    const { state, participantId } = this.#connection;
    const { shown } = state.slices['own-screen'];
    if (shown?.byId === participantId && shown.showingId !== this.#showing?.id) this.#tellEnd(shown.showingId);
  }

  #close(): void {
    const showing = this.#showing;
    if (!showing) return;
    this.#showing = undefined;
    showing.sender.close();
    this.listeners.emit('changed', undefined);
  }

  #isViewer({ id, isGone }: Participant): boolean {
    return id === this.#connection.state.holderId && !isGone;
  }

  get #watchers(): Watcher[] {
    const { state, viewers, status } = this.#connection;
    // Without the service nobody watches, and nobody hears what they may.
    if (!this.#showing?.isBegun || status !== 'live') return [];
    return viewers.flatMap(({ seat, displays }) => {
      const viewer = participantAt(state, seat);
      return viewer && this.#isViewer(viewer) ? [{ seat, displays, start: startOf(viewer) }] : [];
    });
  }

  #follow(): void {
    const showing = this.#showing;
    if (!showing) return;
    const isShown = this.#connection.state.slices['own-screen'].shown?.showingId === showing.id;
    if (isShown) showing.isBegun = true;
    else if (showing.isBegun) {
      const since = this.#connection.entries.slice(showing.fromEntry);
      const isClosed = since.some(({ event: e }) => e.type === 'own-screen/closed' && e.showingId === showing.id);
      this.over = isClosed ? 'closed' : 'not-allowed';
      return this.#close();
    }
    showing.sender.setWatchers(this.#watchers);
    this.listeners.emit('changed', undefined);
  }
}
