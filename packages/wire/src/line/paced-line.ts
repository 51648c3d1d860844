import { realClock, type Clock } from '../clock.ts';

/** What may be on the way before anything is known of a line. */
const FIRST_WINDOW_BYTES = 16 * 1024;
const LEAST_WINDOW_BYTES = 3 * 1024;
/** A line that suddenly becomes slow has no more than this to bring before it hears of it. */
const MOST_WINDOW_BYTES = 384 * 1024;
/** What the picture may keep waiting beyond the round trip, and what files may. */
const PICTURE_QUEUE_MS = 100;
const BULK_QUEUE_MS = 50;
/** Sound goes before both: it finds room behind all that a picture may have on the way, and behind no more. */
const FRESH_ROOM_MS = 60;
/** One message takes no longer than this on the line, and is never larger than 64 KiB. */
const MESSAGE_MS = 50;
const LEAST_MESSAGE_BYTES = 1_200;
export const MOST_MESSAGE_BYTES = 64 * 1024;
/** Files that have waited this long get a turn even while the picture would take everything. */
const BULK_PATIENCE_MS = 300;
/** Bulk that waits here: whoever offers more is not waiting for answers. */
const MOST_BULK_BYTES = 1024 * 1024;
const TELL_BYTES = 128 * 1024;
const TELL_MS = 10;
const RATE_MEMORY_MS = 3_000;
const ROUND_TRIP_MEMORY_MS = 10_000;

interface BulkWaiting {
  readonly bytes: Uint8Array;
  readonly may: () => boolean;
}
interface Sent {
  readonly endsAt: number;
  readonly sentAtMs: number;
  readonly handledThen: number;
  readonly handledAtMs: number;
  /** Whether there was nothing more to send: such a sample says only that the line is at least this fast. */
  readonly isAlone: boolean;
}

/**
 * One direction of one hop. Socket buffers hide seconds of queue, so what counts as arrived is what the other end says it
 * has handled. What may be on the way is rate × (least round trip + 100 ms); the rate is the highest that was lately
 * delivered, measured as in the IETF's draft-cheng-iccrg-delivery-rate-estimation.
 */
export class PacedLine {
  readonly #send: (bytes: Uint8Array) => void;
  readonly #now: () => number;
  readonly #onRoom: () => void;
  readonly #sent: Sent[] = [];
  readonly #bulk: BulkWaiting[] = [];
  #bulkBytes = 0;
  #bulkSinceMs = 0;
  #sentBytes = 0;
  #handledBytes = 0;
  #handledAtMs = 0;
  #rates: { atMs: number; bytesPerMs: number }[] = [];
  #roundTrips: { atMs: number; ms: number }[] = [];
  #isStarved = false;

  constructor(options: { send: (bytes: Uint8Array) => void; onRoom: () => void; now?: () => number }) {
    this.#send = options.send;
    this.#onRoom = options.onRoom;
    this.#now = options.now ?? (() => performance.now());
  }

  get inFlightBytes(): number {
    return this.#sentBytes - this.#handledBytes;
  }
  get bytesPerSecond(): number {
    return (this.#rate() ?? 0) * 1000;
  }
  /** Whether the picture need not wait for this line. */
  get hasRoom(): boolean {
    return this.inFlightBytes < this.#window(PICTURE_QUEUE_MS);
  }
  /** How large the next message may be. */
  get messageBytes(): number {
    const rate = this.#rate();
    if (rate === undefined) return FIRST_WINDOW_BYTES;
    return Math.min(MOST_MESSAGE_BYTES, Math.max(LEAST_MESSAGE_BYTES, rate * MESSAGE_MS));
  }

  /** Sends now, whatever is on the way: control and input, or a picture after `hasRoom`. */
  send(bytes: Uint8Array): void {
    const nowMs = this.#now();
    if (this.inFlightBytes === 0) this.#handledAtMs = nowMs;
    this.#sentBytes += bytes.byteLength;
    this.#sent.push({
      endsAt: this.#sentBytes,
      sentAtMs: nowMs,
      handledThen: this.#handledBytes,
      handledAtMs: this.#handledAtMs,
      isAlone: !this.#isStarved && this.#bulk.length === 0,
    });
    this.#isStarved = false;
    this.#send(bytes);
  }

  /** Whoever finds no room says so: what is measured until then is the line's own speed. */
  noteStarved(): void {
    this.#isStarved = true;
  }

  /** Sends now, or answers false: what would be late is worth nothing. */
  offerFresh(bytes: Uint8Array): boolean {
    const room = Math.max(LEAST_MESSAGE_BYTES, (this.#rate() ?? 0) * FRESH_ROOM_MS);
    if (this.inFlightBytes >= this.#window(PICTURE_QUEUE_MS) + this.messageBytes + room) return false;
    this.send(bytes);
    return true;
  }

  /**
   * False when too much waits already: then nobody listens at the other end. `may` is asked in the tick that sends: what
   * was taken back while it waited never goes.
   */
  offerBulk(bytes: Uint8Array, may: () => boolean = () => true): boolean {
    if (this.#bulkBytes + bytes.byteLength > MOST_BULK_BYTES) return false;
    if (!this.#bulk.length) this.#bulkSinceMs = this.#now();
    this.#bulk.push({ bytes, may });
    this.#bulkBytes += bytes.byteLength;
    this.#pumpBulk();
    return true;
  }

  /** The other end has handled so many bytes since the connection began. */
  handled(totalBytes: number): void {
    if (totalBytes <= this.#handledBytes || totalBytes > this.#sentBytes) return;
    const nowMs = this.#now();
    this.#handledBytes = totalBytes;
    this.#handledAtMs = nowMs;
    let newest: Sent | undefined;
    while (this.#sent[0] && this.#sent[0].endsAt <= totalBytes) newest = this.#sent.shift();
    if (newest) this.#measure(newest, nowMs);
    this.#onRoom();
    this.#pumpBulk();
  }

  #measure(newest: Sent, nowMs: number): void {
    const ms = nowMs - newest.sentAtMs;
    // Whatever is older and no better can never count again: the first is always the best.
    this.#roundTrips = this.#roundTrips.filter((r) => nowMs - r.atMs < ROUND_TRIP_MEMORY_MS && r.ms < ms);
    this.#roundTrips.push({ atMs: nowMs, ms });
    const spanMs = Math.max(nowMs - newest.handledAtMs, nowMs - newest.sentAtMs, 0.2);
    const bytesPerMs = (this.#handledBytes - newest.handledThen) / spanMs;
    // A lone message tells the round trip and little of the rate, unless it was faster than we thought.
    if (newest.isAlone && bytesPerMs <= (this.#rate() ?? 0)) return;
    this.#rates = this.#rates.filter((r) => nowMs - r.atMs < RATE_MEMORY_MS && r.bytesPerMs > bytesPerMs);
    this.#rates.push({ atMs: nowMs, bytesPerMs });
  }

  #rate(): number | undefined {
    return this.#rates[0]?.bytesPerMs;
  }

  #window(queueMs: number): number {
    const rate = this.#rate();
    const roundTrip = this.#roundTrips[0]?.ms;
    if (rate === undefined || roundTrip === undefined) return FIRST_WINDOW_BYTES;
    // A quarter more than was delivered, or a line that became faster would never show it.
    const bytes = rate * 1.25 * (roundTrip + queueMs);
    return Math.min(MOST_WINDOW_BYTES, Math.max(LEAST_WINDOW_BYTES, bytes));
  }

  #pumpBulk(): void {
    while (this.#bulk.length) {
      const isPatient = this.#now() - this.#bulkSinceMs < BULK_PATIENCE_MS;
      const queueMs = isPatient ? BULK_QUEUE_MS : PICTURE_QUEUE_MS + BULK_QUEUE_MS;
      if (this.inFlightBytes >= this.#window(queueMs)) return;
      const { bytes, may } = this.#bulk.shift() as BulkWaiting;
      this.#bulkBytes -= bytes.byteLength;
      if (!may()) continue;
      this.#bulkSinceMs = this.#now();
      this.send(bytes);
    }
  }
}

/**
 * Counts what was handled of what came in since the connection began, and tells the other end the total: at once after
 * 128 KiB, else within 10 ms, since each word costs both ends as much as a small message.
 */
export class HandledCount {
  readonly #tell: (total: number) => void;
  #total = 0;
  #told = 0;
  readonly #clock: Clock;
  #endWaiting: (() => void) | undefined;

  constructor(tell: (total: number) => void, clock: Clock = realClock) {
    this.#tell = tell;
    this.#clock = clock;
  }

  add(bytes: number): void {
    this.#total += bytes;
    if (this.#total - this.#told >= TELL_BYTES) this.#tellNow();
    else this.#endWaiting ??= this.#clock.after(TELL_MS, () => this.#tellNow());
  }

  close(): void {
    this.#endWaiting?.();
  }

  #tellNow(): void {
    this.#endWaiting?.();
    this.#endWaiting = undefined;
    this.#told = this.#total;
    this.#tell(this.#total);
  }
}

export function encodeHandled(totalBytes: number): Uint8Array {
  const out = new Uint8Array(8);
  new DataView(out.buffer).setBigUint64(0, BigInt(totalBytes));
  return out;
}

/** Undefined for bytes that are no such message. */
export function decodeHandled(payload: Uint8Array): number | undefined {
  if (payload.byteLength !== 8) return undefined;
  const total = new DataView(payload.buffer, payload.byteOffset, 8).getBigUint64(0);
  return total <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(total) : undefined;
}
