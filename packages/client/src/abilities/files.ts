import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { isOver, type FileTransfer } from '@porch/core';
import { decodeFilePart, encodeChunk, filesChannel, randomId, type FileMessage } from '@porch/wire';
import { safeFileName } from '../file-names.ts';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';

/** One chunk; small enough that input and picture never wait long behind it. */
export const CHUNK_BYTES = 24 * 1024;
/** On the way before the sender waits for the receiver's word: a second of the line, within these. */
const LEAST_WINDOW_BYTES = 16 * 1024;
const MOST_WINDOW_BYTES = 12 * CHUNK_BYTES;
/** A chunk takes no longer than this on the slowest part of the way, which may not be ours. */
const CHUNK_MS = 50;
const LEAST_CHUNK_BYTES = 1024;
const FIRST_CHUNK_BYTES = 2048;
/** The way is measured over at least this long. */
const MEASURE_MS = 50;
/** A receiver that hears nothing for this long asks again from where it is. */
const ASK_AGAIN_MS = 2_000;

export interface FileToSend {
  readonly name: string;
  readonly sizeBytes: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}
export interface FileSink {
  write(bytes: Uint8Array): Promise<void>;
  finish(): Promise<void>;
  discard(): Promise<void>;
}

export interface FileProgress {
  readonly fileId: string;
  readonly movedBytes: number;
  readonly sizeBytes: number;
}

interface Sending {
  readonly source: FileToSend;
  readonly toSeat: number;
  nextOffset: number;
  ackedOffset: number;
  isPumping: boolean;
  /** Of the whole way to the receiver; undefined until it was measured. */
  bytesPerMs: number | undefined;
  measuredFrom: { offset: number; atMs: number };
}
interface Receiving {
  readonly file: FileTransfer;
  readonly sink: FileSink;
  readonly hash: ReturnType<typeof sha256.create>;
  receivedBytes: number;
  heardAtMs: number;
  work: Promise<void>;
}

/**
 * Both directions of all files of one participant: sealed pairwise, in chunks with acknowledgement. After a reconnect
 * the receiver says how far it is and the sender goes on from there. What arrived is checked before anybody says so.
 */
export class FileTransfers {
  readonly listeners = new Listeners<{ progress: FileProgress; message: { fromSeat: number; message: FileMessage } }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<FileMessage>;
  readonly #sending = new Map<string, Sending>();
  readonly #receiving = new Map<string, Receiving>();
  readonly #discarding = new Set<Promise<void>>();
  readonly #offs: (() => void)[];

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, filesChannel);
    this.#offs = [
      this.#line.listenPlain((from, plain) => this.#take(from.seat, plain)),
      connection.on('entry', () => this.#dropClosed()),
      connection.on('caughtUp', () => {
        for (const receiving of this.#receiving.values()) this.#want(receiving);
      }),
      connection.clock.every(ASK_AGAIN_MS / 2, () => {
        for (const receiving of this.#receiving.values())
          if (this.#nowMs() - receiving.heardAtMs > ASK_AGAIN_MS) this.#want(receiving);
      }),
    ];
  }

  /** Hashes the file and offers it. Resolves with its id once the offer is in the ledger. */
  async offer(source: FileToSend, toId: string, fileId: string = randomId(this.#connection.random)): Promise<string> {
    const receiver = this.#connection.state.participants[toId];
    if (!receiver) throw new Error('nobody of that name is in the session');
    const hash = sha256.create();
    for (let offset = 0; offset < source.sizeBytes; offset += CHUNK_BYTES * 16)
      hash.update(await source.read(offset, Math.min(CHUNK_BYTES * 16, source.sizeBytes - offset)));
    this.#sending.set(fileId, {
      source,
      toSeat: receiver.seat,
      nextOffset: 0,
      ackedOffset: 0,
      isPumping: false,
      bytesPerMs: undefined,
      measuredFrom: { offset: 0, atMs: 0 },
    });
    try {
      await this.#connection.command({
        type: 'offerFile',
        fileId,
        toId,
        name: safeFileName(source.name),
        sizeBytes: source.sizeBytes,
        sha256: bytesToHex(hash.digest()),
      });
    } catch (error) {
      this.#sending.delete(fileId);
      throw error;
    }
    return fileId;
  }

  /** Takes an offered file into `sink`. */
  async accept(fileId: string, sink: FileSink): Promise<void> {
    const file = this.#connection.state.slices.files[fileId];
    if (!file) throw new Error('no such file was offered');
    const receiving: Receiving = {
      file,
      sink,
      hash: sha256.create(),
      receivedBytes: 0,
      heardAtMs: this.#nowMs(),
      work: Promise.resolve(),
    };
    this.#receiving.set(fileId, receiving);
    try {
      await this.#connection.command({ type: 'acceptFile', fileId });
    } catch (error) {
      this.#receiving.delete(fileId);
      throw error;
    }
    this.#want(receiving);
    if (file.sizeBytes === 0) await this.#finish(receiving);
  }

  async refuse(fileId: string): Promise<void> {
    await this.#connection.command({ type: 'closeFile', fileId, how: 'refused', why: 'the receiver said no' });
  }

  async cancel(fileId: string, why = 'cancelled by hand'): Promise<void> {
    await this.#connection.command({ type: 'closeFile', fileId, how: 'cancelled', why });
  }

  /** Other words on the file channel, such as asking for a file by its path. */
  tell(toSeat: number, message: FileMessage): void {
    this.#line.send(toSeat, message);
  }

  /** Those on their way, by the participant at the other end. */
  get moving(): { fileId: string; otherSeat: number; isSending: boolean }[] {
    const seatOf = (id: string) => this.#connection.state.participants[id]?.seat ?? 0;
    return [
      ...[...this.#sending].map(([fileId, { toSeat }]) => ({ fileId, otherSeat: toSeat, isSending: true })),
      ...[...this.#receiving].map(([fileId, { file }]) => ({
        fileId,
        otherSeat: seatOf(file.fromId),
        isSending: false,
      })),
    ];
  }

  /** Ends one at this end, at once and without the service: nothing more is sent, and what came of it is deleted. */
  stop(fileId: string): void {
    this.#sending.delete(fileId);
    const receiving = this.#receiving.get(fileId);
    this.#receiving.delete(fileId);
    if (receiving) this.#discard(receiving);
  }

  /** Resolves when nothing of what was not finished is left. */
  async close(): Promise<void> {
    this.#offs.forEach((off) => off());
    for (const { fileId } of this.moving) this.stop(fileId);
    this.listeners.clear();
    await Promise.all(this.#discarding);
  }

  #nowMs(): number {
    return this.#connection.clock.nowMs();
  }

  #discard(receiving: Receiving): void {
    const done: Promise<void> = receiving.work
      .then(() => receiving.sink.discard())
      .catch(() => undefined) // A piece that cannot be deleted now is found at the next start.
      .finally(() => this.#discarding.delete(done));
    this.#discarding.add(done);
  }

  #dropClosed(): void {
    const { files } = this.#connection.state.slices;
    const isMoving = (fileId: string) => {
      const stage = files[fileId]?.stage;
      return stage === undefined || stage === 'offered' || stage === 'moving';
    };
    for (const fileId of this.#sending.keys()) if (!isMoving(fileId)) this.#sending.delete(fileId);
    for (const [fileId, receiving] of this.#receiving) {
      if (isMoving(fileId) && !isOver(this.#connection.state)) continue;
      this.#receiving.delete(fileId);
      if (files[fileId]?.stage !== 'arrived') this.#discard(receiving);
    }
  }

  #want({ file, receivedBytes }: Receiving): void {
    const sender = this.#connection.state.participants[file.fromId];
    if (sender) this.tell(sender.seat, { type: 'wantFrom', fileId: file.id, offset: receivedBytes });
  }

  #take(fromSeat: number, plain: Uint8Array): void {
    const part = unlessUnreadable(() => decodeFilePart(plain));
    if (!part) return;
    if ('chunk' in part) this.#takeChunk(part.chunk.id, part.chunk.offset, part.chunk.bytes);
    else if (part.message.type === 'wantFrom') this.#sendFrom(part.message.fileId, fromSeat, part.message.offset);
    else if (part.message.type === 'have') this.#acknowledged(part.message.fileId, part.message.offset);
    else this.listeners.emit('message', { fromSeat, message: part.message });
  }

  #sendFrom(fileId: string, seat: number, offset: number): void {
    const sending = this.#sending.get(fileId);
    if (!sending || sending.toSeat !== seat || offset > sending.source.sizeBytes) return;
    sending.nextOffset = offset;
    sending.ackedOffset = offset;
    sending.measuredFrom = { offset, atMs: this.#nowMs() };
    inBackground('sending a file', this.#pump(fileId, sending));
  }

  #acknowledged(fileId: string, offset: number): void {
    const sending = this.#sending.get(fileId);
    if (!sending) return;
    sending.ackedOffset = Math.max(sending.ackedOffset, offset);
    measure(sending, this.#nowMs());
    this.listeners.emit('progress', { fileId, movedBytes: sending.ackedOffset, sizeBytes: sending.source.sizeBytes });
    inBackground('sending a file', this.#pump(fileId, sending));
  }

  async #pump(fileId: string, sending: Sending): Promise<void> {
    if (sending.isPumping) return;
    sending.isPumping = true;
    try {
      const { source } = sending;
      while (
        this.#sending.get(fileId) === sending &&
        sending.nextOffset < source.sizeBytes &&
        sending.nextOffset - sending.ackedOffset < windowBytes(sending)
      ) {
        const offset = sending.nextOffset;
        const bytes = await source.read(offset, Math.min(chunkBytes(sending), source.sizeBytes - offset));
        // Stopped while reading, or asked to go on from somewhere else: what was read is not the next.
        if (this.#sending.get(fileId) !== sending || sending.nextOffset !== offset) continue;
        const chunk = encodeChunk({ id: fileId, offset, bytes });
        // What waits in the queue goes only while it is still being sent.
        const may = () => this.#sending.get(fileId) === sending;
        if (!this.#line.sendPlain(sending.toSeat, chunk, may)) return;
        sending.nextOffset = offset + bytes.length;
      }
    } catch (error) {
      await this.cancel(fileId, `it could not be read: ${String((error as Error).message)}`.slice(0, 80));
    } finally {
      sending.isPumping = false;
    }
  }

  #takeChunk(fileId: string, offset: number, bytes: Uint8Array): void {
    const receiving = this.#receiving.get(fileId);
    // After a reconnect a chunk may come twice or too early; only the next one counts.
    if (!receiving || offset !== receiving.receivedBytes) return;
    if (offset + bytes.length > receiving.file.sizeBytes) return;
    const copy = bytes.slice();
    receiving.receivedBytes += copy.length;
    receiving.heardAtMs = this.#nowMs();
    receiving.hash.update(copy);
    receiving.work = receiving.work
      .then(() => receiving.sink.write(copy))
      .then(
        () => this.#wrote(receiving, offset + copy.length),
        (error: unknown) =>
          this.cancel(fileId, `it could not be written: ${String((error as Error).message)}`.slice(0, 80)),
      );
  }

  async #wrote(receiving: Receiving, offset: number): Promise<void> {
    const { file } = receiving;
    const sender = this.#connection.state.participants[file.fromId];
    if (sender) this.tell(sender.seat, { type: 'have', fileId: file.id, offset });
    this.listeners.emit('progress', { fileId: file.id, movedBytes: offset, sizeBytes: file.sizeBytes });
    if (offset === file.sizeBytes) await this.#finish(receiving);
  }

  async #finish(receiving: Receiving): Promise<void> {
    const { file, sink, hash } = receiving;
    if (!this.#receiving.delete(file.id)) return;
    const arrived = bytesToHex(hash.digest());
    if (arrived === file.sha256) await sink.finish();
    else await sink.discard();
    await this.#connection.command({ type: 'confirmFile', fileId: file.id, sha256: arrived });
  }
}

function measure(sending: Sending, nowMs: number): void {
  const { offset, atMs } = sending.measuredFrom;
  if (nowMs - atMs < MEASURE_MS) return;
  const bytesPerMs = (sending.ackedOffset - offset) / (nowMs - atMs);
  sending.bytesPerMs = sending.bytesPerMs === undefined ? bytesPerMs : sending.bytesPerMs * 0.6 + bytesPerMs * 0.4;
  sending.measuredFrom = { offset: sending.ackedOffset, atMs: nowMs };
}

const chunkBytes = ({ bytesPerMs }: Sending): number =>
  bytesPerMs === undefined
    ? FIRST_CHUNK_BYTES
    : Math.min(CHUNK_BYTES, Math.max(LEAST_CHUNK_BYTES, Math.round(bytesPerMs * CHUNK_MS)));

const windowBytes = ({ bytesPerMs }: Sending): number =>
  Math.min(MOST_WINDOW_BYTES, Math.max(LEAST_WINDOW_BYTES, (bytesPerMs ?? 0) * 1000));
