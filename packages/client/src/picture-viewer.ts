import {
  ByteReader,
  decodeCursorShape,
  decodePoint,
  encodeVersionTable,
  jpegSize,
  PictureError,
  readPhoto,
  readVersionTable,
  ViewerPicture,
  type CursorShape,
  type Inflate,
  type KernelKind,
  type PhotoPixels,
  type Rect,
  type VersionTable,
} from '@porch/screen';
import {
  AppError,
  ContentOpener,
  decodeCheckpoint,
  frameKinds,
  splitContent,
  THUMBNAIL_FROM,
  type ContentParts,
  type Randomness,
} from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';

/** A picture that nobody has vouched for during this time is old: it is said, and nothing is worked with it. */
export const OLD_MS = 3_000;
/** Keys of epochs before the last, for messages that are still on their way. */
const KEPT_EPOCHS = 2;
/** A display that says it is larger is refused: 8K, and what several monitors side by side come to. */
const MAX_VIEWED_PIXELS = 40 * 1024 * 1024;
const MAX_THUMBNAIL_PIXELS = 1024 * 1024;
/** Tables of versions that are not fulfilled yet. */
const MAX_OPEN_TABLES = 32;

export interface PictureViewerOptions {
  readonly display: number;
  readonly inflate: Inflate;
  readonly kernel?: KernelKind;
  decodePhoto(jpeg: Uint8Array): Promise<PhotoPixels>;
  /** Something is to be painted; `rects` are those parts of the picture. */
  onPainted(rects: readonly Rect[], isNewSize: boolean): void;
  onCursorShape?(shape: CursorShape): void;
  onCursorAt?(x: number, y: number): void;
  /** Bytes of a message that needs nothing more: painted, or refused. */
  onHandled(bytes: number): void;
  /** The source has said how it stands. */
  onChecked?(): void;
  /** Something did not arrive that others think did: the relay is to hear what is held. */
  onResync?(): void;
  onTrouble?(trouble: 'no-key' | 'refused'): void;
  now(): number;
  readonly random: Randomness;
}

/** How the picture stands just now. */
export interface PictureStanding {
  /** Milliseconds since everything shown was surely the newest; undefined before that was ever so. */
  readonly ageMs: number | undefined;
  readonly needsTable: boolean;
  readonly refused: number;
}

/**
 * One display as one viewer sees it: opens what the source sealed, in order, keeps the picture, and knows how old it may
 * be. Runs in a worker of the page, and in Node; it paints nothing itself.
 */
export class PictureViewer {
  readonly picture: ViewerPicture;
  readonly #options: PictureViewerOptions;
  readonly #now: () => number;
  readonly #openers = new Map<number, ContentOpener>();
  #scope = { sessionId: '', sourceStart: '' };
  #epoch = 0;
  #work: Promise<void> = Promise.resolve();
  #cursorCounter = 0n;
  #checkpointCounter = 0n;
  #mySeat = 0;
  #challenges = new Map<string, number>();
  #table: { id: number; table: VersionTable } | undefined;
  #needsTable = true;
  #open: { asOfMs: number; table: VersionTable }[] = [];
  #provenMs: number | undefined;
  #refused = 0;
  #unread = 0;
  #unitsSinceCheck = 0;
  #idleChecks = 0;

  constructor(options: PictureViewerOptions) {
    this.#options = options;
    this.#now = () => options.now();
    const mostPixels = options.display >= THUMBNAIL_FROM ? MAX_THUMBNAIL_PIXELS : MAX_VIEWED_PIXELS;
    this.picture = new ViewerPicture(options.inflate, options.kernel, mostPixels);
  }

  /** The key of an epoch, as the source has told it to us alone. An older epoch than one known is refused. */
  setKey(key: { epoch: number; secret: string; sessionId: string; sourceStart: string; mySeat: number }): void {
    const isOtherSource = key.sourceStart !== this.#scope.sourceStart;
    if (isOtherSource) {
      this.#openers.clear();
      this.#epoch = 0;
      this.#cursorCounter = 0n;
      this.#checkpointCounter = 0n;
      this.picture.forget();
      this.#forgetProof();
    }
    this.#scope = { sessionId: key.sessionId, sourceStart: key.sourceStart };
    this.#mySeat = key.mySeat;
    if (this.#openers.has(key.epoch)) return;
    this.#openers.set(key.epoch, new ContentOpener(key.secret, { ...this.#scope, epoch: key.epoch }));
    for (const epoch of this.#openers.keys()) if (epoch < key.epoch - KEPT_EPOCHS) this.#openers.delete(epoch);
  }

  /** A message of the screen or cursor channel. They are applied in the order in which they come. */
  take(bytes: Uint8Array): void {
    let parts: ContentParts;
    try {
      parts = splitContent(bytes);
    } catch {
      this.#refuse(bytes.byteLength);
      return;
    }
    const { frame } = parts;
    const opener = this.#openers.get(frame.epoch);
    // Lower epochs than the newest seen are over; without its key a message is nothing to us.
    if (frame.epoch < this.#epoch || !opener) {
      this.#unread++;
      if (!opener && frame.epoch >= this.#epoch) this.#options.onTrouble?.('no-key');
      this.#options.onHandled(bytes.byteLength);
      return;
    }
    const plain = opener.open(parts).then(
      (opened) => opened,
      () => undefined,
    );
    this.#work = this.#work.then(async () => {
      const opened = await plain;
      if (opened && frame.epoch >= this.#epoch) {
        this.#epoch = frame.epoch;
        await this.#apply(parts, opened);
        // What came before the key was counted as delivered.
        if (this.#unread > 0) {
          this.#unread = 0;
          this.#options.onResync?.();
        }
      } else if (!opened) this.#note('refused');
      this.#options.onHandled(bytes.byteLength);
    });
  }

  /** Everything taken so far has been applied. */
  settled(): Promise<void> {
    return this.#work;
  }

  /** What to ask the source to answer in its next checkpoint. */
  makeChallenge(): { nonce: string; needsTable: boolean } {
    const nonce = bytesToHex(this.#options.random.bytes(8));
    this.#challenges.set(nonce, this.#now());
    for (const known of this.#challenges.keys()) {
      if (this.#challenges.size <= 8) break;
      this.#challenges.delete(known);
    }
    return { nonce, needsTable: this.#needsTable };
  }

  get standing(): PictureStanding {
    this.#prove();
    const ageMs = this.#provenMs === undefined ? undefined : this.#now() - this.#provenMs;
    return { ageMs, needsTable: this.#needsTable, refused: this.#refused };
  }

  /** Which versions are held, to go on from there after a line was lost. */
  get holds(): Uint8Array {
    const { grid, versions, generation } = this.picture;
    if (!grid) return encodeVersionTable({ width: 1, height: 1, generation: 0, versions: new Float64Array(1) });
    return encodeVersionTable({ width: grid.width, height: grid.height, generation, versions });
  }

  /** The right to look has ended: nothing stays. */
  forget(): void {
    this.#openers.clear();
    this.picture.forget();
    this.#forgetProof();
  }

  #forgetProof(): void {
    this.#table = undefined;
    this.#needsTable = true;
    this.#open = [];
    this.#provenMs = undefined;
  }

  #refuse(bytes: number): void {
    this.#note('refused');
    this.#options.onHandled(bytes);
  }

  #note(trouble: 'refused'): void {
    this.#refused++;
    this.#options.onTrouble?.(trouble);
  }

  async #apply(parts: ContentParts, plain: Uint8Array): Promise<void> {
    try {
      const { frame, clear } = parts;
      if (frame.channel === 'cursor') this.#applyCursor(parts, plain);
      else if (frame.kind === frameKinds.screen.checkpoint) this.#applyCheckpoint(frame.counter, plain);
      else {
        const kind =
          frame.kind === frameKinds.screen.whole
            ? 'whole'
            : frame.kind === frameKinds.screen.photo
              ? 'photo'
              : 'change';
        const photo = kind === 'photo' ? await this.#decode(plain) : undefined;
        const unit = {
          kind,
          number: Number(frame.counter),
          generation: frame.displayGeneration,
          clear,
          body: plain,
        } as const;
        const { rects, isNewSize } = this.picture.take(unit, photo);
        this.#unitsSinceCheck++;
        if (isNewSize) this.#forgetProof();
        if (rects.length || isNewSize) this.#options.onPainted(rects, isNewSize);
      }
    } catch (error) {
      if (!(error instanceof PictureError) && !(error instanceof AppError)) throw error;
      this.#note('refused');
    }
  }

  /** Whatever a decoder throws at broken bytes: they are refused, and what comes after them is not. */
  async #decode(body: Uint8Array): Promise<PhotoPixels> {
    const { rect, jpeg } = readPhoto(body);
    // What it says of itself decides what decoding it would cost, so that is looked at first.
    const size = jpegSize(jpeg);
    if (size?.width !== rect.width || size.height !== rect.height)
      throw new PictureError('a photo has another size than it says');
    try {
      return await this.#options.decodePhoto(jpeg);
    } catch (cause) {
      throw new PictureError('a photo cannot be decoded', { cause });
    }
  }

  #applyCursor({ frame }: ContentParts, plain: Uint8Array): void {
    if (frame.counter <= this.#cursorCounter) return;
    this.#cursorCounter = frame.counter;
    if (frame.kind === frameKinds.cursor.shape) this.#options.onCursorShape?.(decodeCursorShape(plain));
    else {
      const { x, y } = decodePoint(plain);
      this.#options.onCursorAt?.(x, y);
    }
  }

  #applyCheckpoint(counter: bigint, plain: Uint8Array): void {
    if (counter <= this.#checkpointCounter) return;
    this.#checkpointCounter = counter;
    const { tableId, table, echoes } = decodeCheckpoint(plain);
    if (table) this.#table = { id: tableId, table: readVersionTable(new ByteReader(table)) };
    if (this.#table?.id !== tableId) {
      this.#needsTable = true;
      return;
    }
    this.#needsTable = false;
    const echo = echoes.find(({ seat }) => seat === this.#mySeat);
    const asOfMs = echo && this.#challenges.get(echo.nonce);
    // Without an answer to a question of ours it may be an old one.
    if (asOfMs === undefined) return;
    // Nothing came for two seconds, and something is missing: whoever thinks that we have it is told otherwise.
    const isBehind = this.#unitsSinceCheck === 0 && !this.#fulfils(this.#table.table);
    this.#idleChecks = isBehind ? this.#idleChecks + 1 : 0;
    this.#unitsSinceCheck = 0;
    if (this.#idleChecks === 2) {
      this.#idleChecks = 0;
      this.#options.onResync?.();
    }
    this.#open.push({ asOfMs, table: this.#table.table });
    if (this.#open.length > MAX_OPEN_TABLES) this.#open.shift();
    this.#prove();
    this.#options.onChecked?.();
  }

  /** The newest moment of which everything is held. */
  #prove(): void {
    for (let i = this.#open.length - 1; i >= 0; i--) {
      const open = this.#open[i];
      if (!open || !this.#fulfils(open.table)) continue;
      this.#provenMs = Math.max(this.#provenMs ?? -Infinity, open.asOfMs);
      this.#open.splice(0, i + 1);
      return;
    }
  }

  #fulfils(table: VersionTable): boolean {
    const { grid, generation, versions } = this.picture;
    if (generation > table.generation) return true;
    if (!grid || generation < table.generation || table.versions.length !== versions.length) return false;
    return table.versions.every((version, tile) => (versions[tile] ?? 0) >= version && version > 0);
  }
}
