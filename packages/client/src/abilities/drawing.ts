import { consentHolderOf } from '@porch/core';
import {
  drawingChannel,
  growingKinds,
  MAX_GROWN_POINTS,
  MAX_MARK_POINTS,
  type DrawingMessage,
  type Mark,
  type MarkMessage,
} from '@porch/wire';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { MarkBoard, MAX_MARKS, type ShownMark } from '../marks.ts';
import { SealedLine } from '../sealed-line.ts';

/** What is drawn is looked for in the picture this often, and given up after so long: it may lie where nothing is shown. */
const LOOK_MS = 50;
const GIVE_UP_MS = 3_000;

/** What a hand draws is told this often: half as often as a screen is drawn, at half the cost. */
const SAY_MS = 40;

interface Echo {
  /** Of the last stroke. */
  points: number;
  readonly display: number;
  isDone: boolean;
  /** As the other side says: it is in every update after this one. */
  afterUpdate?: number;
  shownAtMs?: number;
}

/**
 * The technician's side of pointing and drawing. Their own marks are shown at once, over the picture, until the picture
 * itself has them; those of others where the picture never does.
 */
export class TechnicianDrawing {
  readonly listeners = new Listeners<{ marks: readonly ShownMark[] }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<DrawingMessage>;
  readonly #board: MarkBoard;
  readonly #seen: (display: number) => number;
  readonly #echoes = new Map<number, Echo>();
  readonly #off: () => void;
  #stopLooking: (() => void) | undefined;
  #lastId = 0;

  /** `seen`: the newest update of a display that is painted here. */
  constructor(connection: LiveConnection, seen: (display: number) => number) {
    this.#connection = connection;
    this.#seen = seen;
    this.#line = new SealedLine(connection, drawingChannel);
    this.#board = new MarkBoard(connection.clock, (marks) => this.listeners.emit('marks', marks));
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === consentHolderOf(connection.state)?.id,
    );
  }

  /** A whole mark. False when there is nobody to show it. */
  mark(mark: Mark, display: number, fades = false): boolean {
    return this.#begin(mark, display, fades, true) !== undefined;
  }

  /** A mark that a hand is drawing: it grows by what is added, until `end`. */
  begin(kind: 'pen' | 'marker', first: Mark['points'][number], display: number, fades = false): GrowingMark {
    const begin = (point: Mark['points'][number]) => this.#begin({ kind, points: [point] }, display, fades, false) ?? 0;
    let id = begin(first);
    let count = 1;
    let waiting: Mark['points'] = [];
    let cancel: (() => void) | undefined;
    let saidAtMs = -Infinity;
    const say = () => {
      cancel?.();
      cancel = undefined;
      saidAtMs = this.#connection.clock.nowMs();
      for (let at = 0; at < waiting.length; at += MAX_MARK_POINTS)
        this.#tell({ type: 'more', id, points: waiting.slice(at, at + MAX_MARK_POINTS) });
      waiting = [];
    };
    const add = (part: Mark['points']) => {
      if (count + part.length > MAX_GROWN_POINTS) {
        // The hand does not stop because a mark is full.
        say();
        this.#finish(id);
        id = begin(part[0] ?? first);
        count = 1;
      }
      count += part.length;
      this.#board.take(this.#connection.seat, { type: 'more', id, points: part });
      const echo = this.#echoes.get(id);
      if (echo) echo.points = count;
      waiting.push(...part);
    };
    return {
      add: (points) => {
        for (let at = 0; at < points.length; at += MAX_MARK_POINTS) add(points.slice(at, at + MAX_MARK_POINTS));
        const waitMs = saidAtMs + SAY_MS - this.#connection.clock.nowMs();
        if (waitMs <= 0) say();
        else cancel ??= this.#connection.clock.after(waitMs, say);
      },
      end: () => {
        say();
        this.#finish(id);
      },
    };
  }

  unmark(which: 'last' | 'all' | 'everybodys'): void {
    this.#do({ type: 'unmark', which });
  }

  /** The right to draw, or what was drawn on, has ended. */
  forget(): void {
    this.#echoes.clear();
    if (this.#board.marks.length) this.#board.keep(() => false);
  }

  close(): void {
    this.#off();
    this.#stopLooking?.();
    this.listeners.clear();
    this.#board.close();
  }

  #begin(mark: Mark, display: number, fades: boolean, isDone: boolean): number | undefined {
    const id = ++this.#lastId;
    const [oldest] = this.#echoes.keys();
    // Where the picture never has them they stay, as many as the board holds.
    if (oldest !== undefined && this.#echoes.size >= MAX_MARKS) this.#echoes.delete(oldest);
    this.#echoes.set(id, { points: mark.points.length, display, isDone: isDone || !growingKinds.includes(mark.kind) });
    return this.#do({ type: 'mark', id, display, mark, fades }) ? id : undefined;
  }

  #finish(id: number): void {
    const echo = this.#echoes.get(id);
    if (echo) echo.isDone = true;
  }

  #do(message: MarkMessage): boolean {
    this.#board.take(this.#connection.seat, message);
    return this.#tell(message);
  }
  #tell(message: MarkMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }

  #take(message: DrawingMessage): void {
    if (message.type === 'theirs') {
      if (message.seat !== this.#connection.seat) this.#board.take(message.seat, message.what);
      return;
    }
    if (message.type !== 'shown') return;
    const echo = this.#echoes.get(message.id);
    if (!echo || message.count < echo.points) return;
    Object.assign(echo, { afterUpdate: message.afterUpdate, shownAtMs: this.#connection.clock.nowMs() });
    this.#stopLooking ??= this.#connection.clock.every(LOOK_MS, () => this.#dropShown());
  }

  /** What the picture has by now need not be drawn over it. */
  #dropShown(): void {
    const nowMs = this.#connection.clock.nowMs();
    const { seat } = this.#connection;
    for (const [id, echo] of this.#echoes) {
      const { afterUpdate, shownAtMs, isDone, display } = echo;
      if (afterUpdate === undefined || shownAtMs === undefined || !isDone) continue;
      if (this.#seen(display) <= afterUpdate && nowMs - shownAtMs < GIVE_UP_MS) continue;
      this.#echoes.delete(id);
      this.#board.keep((m) => m.seat !== seat || m.id !== id);
    }
    if ([...this.#echoes.values()].some(({ afterUpdate }) => afterUpdate !== undefined)) return;
    this.#stopLooking?.();
    this.#stopLooking = undefined;
  }
}

/** A mark while a hand draws it. */
export interface GrowingMark {
  add(points: Mark['points']): void;
  end(): void;
}
