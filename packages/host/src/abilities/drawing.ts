import { inUnit, markColour, MarkBoard, SealedLine, type ShownMark } from '@porch/client';
import { participantAt, presentOf, type Participant } from '@porch/core';
import {
  ALL_MONITORS,
  drawingChannel,
  MAX_MARK_POINTS,
  type DrawingMessage,
  type Mark,
  type MarkMessage,
} from '@porch/wire';
import type { Rect } from '@porch/screen';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import type { InkMark, InkPort } from '../ports/desktop-ports.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { ToldOnce } from '../told-once.ts';
import { isLooker } from '../watchers.ts';

/** Where nobody says where the picture lies marks are drawn on a copy, which is as large as it is. */
const ON_A_COPY: Rect = { x: 0, y: 0, width: 1, height: 1 };

/** A mark that grew no further for this long is answered. */
const ANSWER_MS = 150;

/** Shows what technicians, and the person here, point at and draw. */
export const drawing: HostAbility = {
  name: 'drawing',
  whyNot: (_permission, ports) => whyWithout(ports, 'ink'),
  begin: (kit) => beginWith(kit.ports.ink, (ink) => new MarksHere(kit, ink)),
};

class MarksHere implements Running {
  readonly #kit: Kit;
  readonly #ink: InkPort;
  readonly #line: SealedLine<DrawingMessage>;
  readonly #board: MarkBoard;
  readonly #offs: (() => void)[];
  /** Whose first mark since they may the ledger has. */
  readonly #told: ToldOnce;
  #shown: readonly ShownMark[] = [];
  #places = '';
  /** What the monitor is called that each was drawn on: numbers are given anew when one comes or goes. */
  readonly #monitors = new Map<number, string>();
  #drawn: Promise<void> = Promise.resolve();
  /** By whose mark it is: what takes the answer off again. */
  readonly #answering = new Map<string, () => void>();
  /** Those to whom another's marks are told; where the picture has them by itself, nobody. */
  #lookers: readonly string[] = [];
  #isDrawing = false;
  #isClosed = false;

  constructor(kit: Kit, ink: InkPort) {
    this.#kit = kit;
    this.#ink = ink;
    this.#told = new ToldOnce(kit.held, 'draw-on-screen');
    this.#line = new SealedLine(kit.connection, drawingChannel);
    this.#board = new MarkBoard(kit.time, () => this.#show());
    this.#offs = [
      this.#line.listen(
        ({ from, message }) => this.#take(from, message),
        (from) => this.#mayDraw(from),
      ),
      ink.onOwnMark((message) => this.#takeOwn(message)),
      kit.ports.banner.onDrawWanted(() => this.#setDrawing(!this.#isDrawing && this.#hasLookers)),
    ];
  }

  /** What was drawn goes with the right to draw, and nothing is drawn for nobody. */
  changed(): void {
    const { connection } = this.#kit;
    this.#told.follow();
    if (this.#isDrawing && !this.#hasLookers) this.#setDrawing(false);
    const mayStay = (seat: number) => (seat === connection.seat ? this.#hasLookers : this.#mayDrawAt(seat));
    const gone = new Set(this.#board.marks.map(({ seat }) => seat).filter((seat) => !mayStay(seat)));
    this.#board.keep(({ seat }) => !gone.has(seat));
    if (!this.#ink.isInPicture) for (const seat of gone) this.#tellOthers(seat, { type: 'unmark', which: 'all' });
    this.#welcome();
    this.#show();
  }

  banner(soFar: BannerLine): BannerLine {
    if (!this.#ink.letDraw) return soFar;
    const { draw, pen, arrow, box, undo, clear, done } = this.#kit.words.drawing;
    return this.#isDrawing
      ? { ...soFar, draw, drawing: { tools: { pen, arrow, box }, undo, clear, done } }
      : { ...soFar, draw };
  }

  close(): void {
    this.#isClosed = true;
    this.#offs.forEach((off) => off());
    this.#answering.forEach((cancel) => cancel());
    this.#ink.letDraw?.(false);
    this.#board.close();
  }

  get #present(): Participant[] {
    return presentOf(this.#kit.connection.state, 'desk');
  }
  get #hasLookers(): boolean {
    return this.#present.some(({ signKey }) => isLooker(this.#kit, signKey));
  }
  #mayDraw({ signKey, isGone }: Participant): boolean {
    return !isGone && this.#kit.held.may('draw-on-screen', signKey);
  }
  #mayDrawAt(seat: number): boolean {
    const who = this.#present.find((p) => p.seat === seat);
    return who !== undefined && this.#mayDraw(who);
  }

  #take(from: Participant, message: DrawingMessage): void {
    if (message.type === 'shown' || message.type === 'theirs') return;
    if (message.type === 'mark') this.#tellOnce(from.signKey, from.id);
    this.#do(from.seat, message);
    if (message.type === 'unmark' || !this.#ink.isInPicture) return;
    const { id } = message;
    this.#answerSoon(from.seat, id);
  }

  /** The person's own; a desktop says where on all its monitors. */
  #takeOwn(message: MarkMessage): void {
    const { connection } = this.#kit;
    if (!this.#hasLookers) return;
    if (message.type === 'mark') this.#tellOnce(connection.keys.signKey, connection.participantId);
    this.#do(connection.seat, this.#onOneDisplay(message));
  }

  #do(seat: number, message: MarkMessage): void {
    this.#board.take(seat, message);
    if (!this.#ink.isInPicture) this.#tellOthers(seat, message);
  }

  #tellOthers(seat: number, what: MarkMessage, only?: number): void {
    for (const other of this.#present)
      if (other.seat !== seat && (only === undefined || other.seat === only) && isLooker(this.#kit, other.signKey))
        this.#line.send(other.seat, { type: 'theirs', seat, what });
  }

  /** Whoever begins to look sees what others have drawn so far. */
  #welcome(): void {
    if (this.#ink.isInPicture) return;
    const lookers = this.#present.filter(({ signKey }) => isLooker(this.#kit, signKey));
    for (const { seat, signKey } of lookers)
      if (!this.#lookers.includes(signKey))
        for (const { mark, fades, display, id, seat: whose } of this.#board.marks)
          for (const part of partsOf({ type: 'mark', id, display, fades, mark })) this.#tellOthers(whose, part, seat);
    this.#lookers = lookers.map(({ signKey }) => signKey);
  }

  /** Once for each time that somebody may. */
  #tellOnce(signKey: string, participantId: string): void {
    if (!this.#told.isFirst(signKey)) return;
    this.#kit.report((fact) => ({ type: 'drawing/tellDrawn', participantId, fact }));
  }

  #setDrawing(isOn: boolean): void {
    if (this.#isDrawing === isOn || this.#isClosed) return;
    this.#isDrawing = isOn;
    this.#ink.letDraw?.(isOn);
    this.#kit.changed();
  }

  /** Nothing of anybody's stands beside a question: it could be taken for a part of it. */
  get #visible(): readonly ShownMark[] {
    return this.#kit.isAsking ? [] : this.#board.marks;
  }

  #inkOf(mark: ShownMark): InkMark[] {
    const { state } = this.#kit.connection;
    const monitor = this.#ink.isInPicture ? this.#placeOf(mark) : ON_A_COPY;
    const who = participantAt(state, mark.seat);
    // A display that is gone takes what was drawn on it along.
    if (!monitor || !who) return [];
    const name = who.side === 'desk' ? (who.name ?? this.#kit.words.kernel.technician) : (state.customerName ?? '');
    return [{ ...mark, monitor, colour: markColour(mark.seat), name }];
  }

  /** Where the monitor lies now that it was drawn on. */
  #placeOf({ key, display }: ShownMark): Rect | undefined {
    const { shared } = this.#kit;
    const name = this.#monitors.get(key) ?? shared.monitorOf(display)?.name;
    if (name === undefined) return undefined;
    this.#monitors.set(key, name);
    if (display === ALL_MONITORS) return shared.monitorOf(display)?.rect;
    for (let i = 0; ; i++) {
      const one = shared.monitorOf(i);
      if (!one || one.name === name) return one?.rect;
    }
  }

  #show(): void {
    const keys = new Set(this.#board.marks.map(({ key }) => key));
    for (const key of this.#monitors.keys()) if (!keys.has(key)) this.#monitors.delete(key);
    const visible = this.#visible;
    const ink = visible.flatMap((mark) => this.#inkOf(mark));
    const places = ink.map(({ monitor: { x, y, width, height } }) => [x, y, width, height].join()).join(' ');
    const isSame =
      visible.length === this.#shown.length && visible.every((m, i) => m === this.#shown[i]) && places === this.#places;
    if (isSame) return;
    this.#shown = visible;
    this.#places = places;
    this.#drawn = this.#ink.showMarks(ink);
    this.#drawn.catch((error: unknown) => this.#kit.log.error({ err: error }, 'marks cannot be shown'));
  }

  /** Once the hand rests: whoever draws need not hear of each point. */
  #answerSoon(seat: number, id: number): void {
    const key = `${seat} ${id}`;
    this.#answering.get(key)?.();
    const cancel = this.#kit.time.after(ANSWER_MS, () => {
      this.#answering.delete(key);
      this.#drawn.then(() => this.#answer(seat, id)).catch(() => undefined); // Told where it was drawn.
    });
    this.#answering.set(key, cancel);
  }

  /** So many points of it are on the screen now: the technician's own copy of them can go. */
  #answer(seat: number, id: number): void {
    const mark = this.#board.marks.find((m) => m.seat === seat && m.id === id);
    const afterUpdate = mark && this.#kit.shared.aim(mark.display)?.newest;
    if (!mark || afterUpdate === undefined || this.#isClosed) return;
    this.#line.send(seat, { type: 'shown', id, count: mark.mark.points.length, afterUpdate });
  }

  #onOneDisplay(message: MarkMessage): MarkMessage {
    const { shared } = this.#kit;
    const whole = shared.monitorOf(ALL_MONITORS)?.rect;
    if (!this.#ink.isInPicture || message.type === 'unmark' || !whole) return message;
    const onScreen = (p: Mark['points'][number]) => ({
      x: whole.x + p.x * whole.width,
      y: whole.y + p.y * whole.height,
    });
    const first = message.type === 'mark' ? message.mark.points[0] : undefined;
    const display = first ? this.#displayAt(onScreen(first)) : 'id' in message ? this.#ownMark(message.id)?.display : 0;
    const rect = display === undefined ? undefined : shared.monitorOf(display)?.rect;
    if (display === undefined || !rect) return message;
    const moved = (points: Mark['points']) => points.map((p) => inShares(onScreen(p), rect));
    return message.type === 'mark'
      ? { ...message, display, mark: { ...message.mark, points: moved(message.mark.points) } }
      : { ...message, points: moved(message.points) };
  }
  #displayAt(place: Place): number | undefined {
    for (let display = 0; ; display++) {
      const rect = this.#kit.shared.monitorOf(display)?.rect;
      if (!rect) return undefined;
      if (isWithin(place, rect)) return display;
    }
  }
  #ownMark(id: number): ShownMark | undefined {
    return this.#board.marks.find((m) => m.seat === this.#kit.connection.seat && m.id === id);
  }
}

interface Place {
  readonly x: number;
  readonly y: number;
}
const isWithin = ({ x, y }: Place, rect: Rect): boolean =>
  x >= rect.x && y >= rect.y && x <= rect.x + rect.width && y <= rect.y + rect.height;
const inShares = ({ x, y }: Place, rect: Rect): Place => ({
  x: inUnit((x - rect.x) / rect.width),
  y: inUnit((y - rect.y) / rect.height),
});

/** A mark as messages that are no longer than they may be. */
function partsOf(message: Extract<MarkMessage, { type: 'mark' }>): MarkMessage[] {
  const { points } = message.mark;
  const parts: MarkMessage[] = [{ ...message, mark: { ...message.mark, points: points.slice(0, MAX_MARK_POINTS) } }];
  for (let at = MAX_MARK_POINTS; at < points.length; at += MAX_MARK_POINTS)
    parts.push({ type: 'more', id: message.id, points: points.slice(at, at + MAX_MARK_POINTS) });
  return parts;
}
