import {
  encodeCursorShape,
  encodePoint,
  encodeVersionTable,
  TileSource,
  type CursorShape,
  type Rect,
} from '@porch/screen';
import type { SourceUnit, VersionTable } from '@porch/screen';
import {
  contentKey,
  encodeCheckpoint,
  encodeFrameHeader,
  EVERY_VIEWER,
  frameKinds,
  type ContentScope,
  type Echo,
  type Clock,
} from '@porch/wire';
import type { SharePort, SourceCodecs } from './share-port.ts';

/** How many messages are remembered for telling how old a technician's picture is. */
const REMEMBERED_UNITS = 1024;
/** The plain patch in place of what the customer does not show. */
export const COVER_COLOUR = 0x6b7b7c;

/** What one display's messages need of its surroundings. */
export interface DisplayParts {
  readonly port: SharePort;
  readonly codecs: SourceCodecs;
  readonly display: number;
  readonly clock: Clock;
  key(): { epoch: number; secret: string };
  jpegQuality(): number;
  onTrouble(error: unknown, what: string): void;
}

/** One display on its way out: its tiles, sealed and numbered. */
export class DisplaySender {
  readonly display: number;
  readonly #parts: DisplayParts;
  readonly #keys = new Map<string, Uint8Array>();
  readonly #sent: { readonly number: number; readonly atMs: number }[] = [];
  #source: TileSource | undefined;
  #generation = 0;
  /** Numbers only grow, also over generations: they are nonces. */
  #lastNumber = 0;
  #cursorCounter = 0n;
  #checkpointTable: Float64Array | undefined;
  #tableId = 0;
  #photo: Promise<void> | undefined;
  #cursorShape: CursorShape | undefined;
  #cursorAt: { x: number; y: number } | undefined;

  constructor(parts: DisplayParts) {
    this.#parts = parts;
    this.display = parts.display;
  }

  get source(): TileSource | undefined {
    return this.#source;
  }
  get generation(): number {
    return this.#generation;
  }

  /** The number of the last message that was sent. */
  get newest(): number {
    return this.#lastNumber;
  }

  /** Every tile was sent at least once. */
  get isWhole(): boolean {
    return this.#source?.versions.every((version) => version > 0) ?? false;
  }

  /** A new size is a new picture. */
  setSize(width: number, height: number): void {
    const { grid } = this.#source ?? {};
    if (grid?.width === width && grid.height === height) return;
    this.#source = new TileSource(width, height, {
      deflate: this.#parts.codecs.deflate,
      now: () => this.#parts.clock.nowMs(),
      firstNumber: this.#lastNumber + 1,
    });
    this.#generation++;
    this.#checkpointTable = undefined;
  }

  put(rect: Rect, pixels: Uint32Array, covered: readonly Rect[] = []): void {
    this.#source?.put(rect, pixels);
    for (const hidden of covered) this.#source?.cover(hidden, COVER_COLOUR);
  }

  /** When a newer message than this one was sent; undefined while it is the newest. */
  replacedAtMs(number: number): number | undefined {
    const [oldest] = this.#sent;
    if (oldest && number < oldest.number - 1 && this.#sent.length === REMEMBERED_UNITS) return 0;
    return this.#sent.find((unit) => unit.number > number)?.atMs;
  }

  /** Sends while the line has room. */
  pump(focus: { x: number; y: number } | undefined): void {
    const source = this.#source;
    const { port } = this.#parts;
    if (!source || this.#parts.key().epoch === 0) return;
    this.#startPhoto(source, focus);
    while (port.hasRoom) {
      const unit = source.next(port.messageBytes, focus);
      if (!unit) return;
      if (!this.#sendUnit(unit)) return;
    }
  }

  /** What the relay and the viewers together have lost, or never had. None means all. */
  want(tiles: readonly number[]): void {
    if (tiles.length) this.#source?.want(tiles);
    else this.#source?.wantAll();
  }

  /** The relay says what it saw before a line was lost: the rest comes again. */
  wantWhatDiffers(table: VersionTable): void {
    const source = this.#source;
    if (!source) return;
    const isSame = table.generation === this.#generation && table.versions.length === source.versions.length;
    if (!isSame) source.wantAll();
    else source.want([...source.versions.keys()].filter((tile) => source.versions[tile] !== table.versions[tile]));
  }

  cursorShape(shape: CursorShape): void {
    this.#cursorShape = shape;
    this.#sendSealed(
      'cursor',
      frameKinds.cursor.shape,
      ++this.#cursorCounter,
      new Uint8Array(0),
      encodeCursorShape(shape),
    );
  }

  cursorAt(x: number, y: number): void {
    this.#cursorAt = { x, y };
    this.#sendSealed('cursor', frameKinds.cursor.position, ++this.#cursorCounter, new Uint8Array(0), encodePoint(x, y));
  }

  /** After a new key: what newcomers have to know beside tiles. */
  tellCursor(): void {
    if (this.#cursorShape) this.cursorShape(this.#cursorShape);
    if (this.#cursorAt) this.cursorAt(this.#cursorAt.x, this.#cursorAt.y);
  }

  checkpoint(echoes: readonly Echo[], isTableNeeded: boolean): void {
    const source = this.#source;
    if (!source || this.#parts.key().epoch === 0) return;
    const last = this.#checkpointTable;
    const isSame = last !== undefined && source.versions.every((version, tile) => version === last[tile]);
    if (!isSame) {
      this.#checkpointTable = source.versions.slice();
      this.#tableId++;
    }
    const { width, height } = source.grid;
    const table =
      isSame && !isTableNeeded
        ? undefined
        : encodeVersionTable({ width, height, generation: this.#generation, versions: source.versions });
    const body = encodeCheckpoint({ tableId: this.#tableId, table, echoes });
    this.#sendSealed('screen', frameKinds.screen.checkpoint, BigInt(this.#takeNumber(source)), new Uint8Array(0), body);
  }

  #takeNumber(source: TileSource): number {
    const number = source.takeNumber();
    this.#lastNumber = number;
    return number;
  }

  #startPhoto(source: TileSource, focus: { x: number; y: number } | undefined): void {
    const { encodeJpeg } = this.#parts.codecs;
    if (this.#photo || !encodeJpeg) return;
    const job = source.takePhotoJob();
    if (!job) return;
    this.#photo = encodeJpeg(job.rgb, job.rect.width, job.rect.height, this.#parts.jpegQuality())
      .then((jpeg) => source.finishPhoto(job, jpeg))
      .catch((error: unknown) => {
        // A picture without loss is larger, and as good: what could not be encoded goes that way from now on.
        source.mayLose = false;
        source.want(job.tiles);
        this.#parts.onTrouble(error, 'a photo could not be encoded');
      })
      .finally(() => {
        this.#photo = undefined;
        this.pump(focus);
      });
  }

  #sendUnit(unit: SourceUnit): boolean {
    this.#lastNumber = unit.number;
    const isSent = this.#sendSealed('screen', frameKinds.screen[unit.kind], BigInt(unit.number), unit.clear, unit.body);
    this.#sent.push({ number: unit.number, atMs: this.#parts.clock.nowMs() });
    if (this.#sent.length > REMEMBERED_UNITS) this.#sent.shift();
    return isSent;
  }

  #sendSealed(
    channel: ContentScope['channel'],
    kind: number,
    counter: bigint,
    clear: Uint8Array,
    plain: Uint8Array,
  ): boolean {
    const { port } = this.#parts;
    const { epoch, secret } = this.#parts.key();
    if (epoch === 0) return false;
    const header = encodeFrameHeader({
      channel,
      kind,
      display: this.display,
      senderSeat: port.seat,
      receiverSeat: EVERY_VIEWER,
      epoch,
      displayGeneration: this.#generation,
      counter,
    });
    return port.send({ key: this.#key(channel, epoch, secret), counter, header, clear, plain });
  }

  #key(channel: ContentScope['channel'], epoch: number, secret: string): Uint8Array {
    const name = `${channel}|${epoch}`;
    const known = this.#keys.get(name);
    if (known) return known;
    const { port } = this.#parts;
    this.#keys.clear();
    const scope = {
      sessionId: port.sessionId,
      sourceStart: port.sourceStart,
      epoch,
      display: this.display,
    };
    for (const each of ['screen', 'cursor'] as const)
      this.#keys.set(`${each}|${epoch}`, contentKey(secret, { ...scope, channel: each }));
    return this.#key(channel, epoch, secret);
  }
}
