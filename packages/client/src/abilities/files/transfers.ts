import { bytesToHex } from '@noble/hashes/utils.js';
import { isOver, isUnderWay } from '@porch/core';
import { decodeFilePart, encodeChunk, filesChannel, randomId, type FileMessage, type RunningHash } from '@porch/wire';
import { safeFileName } from '../../file-names.ts';
import { inBackground } from '../../in-background.ts';
import { Listeners } from '../../listeners.ts';
import type { LiveConnection } from '../../live/live-connection.ts';
import { SealedLine } from '../../sealed-line.ts';
import { unlessUnreadable } from '../../unless-unreadable.ts';
import type { FileProgress, FileSink, FileToSend } from './file-ends.ts';
import { MovedRate } from './rate.ts';
import { Receiving } from './receiving.ts';
import { HASH_READ_BYTES, Sending } from './sending.ts';

/** A receiver that hears nothing for this long asks again from where it is. */
const ASK_AGAIN_MS = 2_000;
const MAX_WHY_CHARS = 80;

/**
 * Both directions of all files of one participant: sealed pairwise, in chunks with acknowledgement. After a lost line the
 * receiver says how far it is and the sender goes on from there; after a new start of either program the same file is
 * offered again, and what came of it before does not come twice. What arrived is checked before anybody says so.
 */
export class FileTransfers {
  readonly listeners = new Listeners<{ progress: FileProgress; message: { fromSeat: number; message: FileMessage } }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<FileMessage>;
  readonly #sending = new Map<string, Sending>();
  readonly #receiving = new Map<string, Receiving>();
  readonly #rates = new Map<string, MovedRate>();
  readonly #closing = new Set<Promise<void>>();
  readonly #offs: (() => void)[];

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, filesChannel);
    this.#offs = [
      this.#line.listenPlain((from, plain) => this.#take(from.seat, plain)),
      connection.on('entry', ({ event }) => {
        if (event.type === 'files/paused') this.#paused(event.fileId, event.isPaused);
        this.#dropClosed();
      }),
      connection.on('caughtUp', () => {
        for (const receiving of this.#receiving.values()) this.#want(receiving);
      }),
      connection.clock.every(ASK_AGAIN_MS / 2, () => {
        for (const receiving of this.#receiving.values())
          if (this.#nowMs() - receiving.heardAtMs > ASK_AGAIN_MS) this.#want(receiving);
      }),
    ];
  }

  /** Ids under which so many are offered next: at their end they are asked for in one question. */
  announce(count: number, toId: string): string[] {
    const ids = Array.from({ length: count }, () => randomId(this.#connection.random));
    const receiver = this.#connection.state.participants[toId];
    if (receiver && count > 1) this.tell(receiver.seat, { type: 'together', fileIds: ids });
    return ids;
  }

  /** Hashes the file or folder and offers it. Resolves with its id once the offer is in the ledger. */
  async offer(source: FileToSend, toId: string, fileId: string = randomId(this.#connection.random)): Promise<string> {
    const receiver = this.#connection.state.participants[toId];
    if (!receiver) throw new Error('nobody of that name is in the session');
    const hash = this.#connection.ciphers.hash();
    await hashInto(hash, source, source.sizeBytes);
    const sha256 = bytesToHex(hash.digest());
    this.#sending.set(fileId, this.#newSending(fileId, source, receiver.seat));
    const { sizeBytes, count } = source;
    const about = { fileId, toId, name: safeFileName(source.name), sizeBytes, sha256 };
    try {
      if (count === undefined) await this.#connection.command({ type: 'offerFile', ...about });
      else await this.#connection.command({ type: 'files/offerFolder', ...about, count });
    } catch (error) {
      this.#sending.delete(fileId);
      throw error;
    }
    return fileId;
  }

  /** Takes an offered file into `sink`, behind what that has of it already. */
  async accept(fileId: string, sink: FileSink): Promise<void> {
    const file = this.#connection.state.slices.files[fileId];
    if (!file) throw new Error('no such file was offered');
    const { begun } = sink;
    const has = begun ? Math.min(begun.bytes, file.sizeBytes) : 0;
    const hash = this.#connection.ciphers.hash();
    if (begun) await hashInto(hash, begun, has);
    const receiving = new Receiving(file, sink, hash, has, this.#nowMs());
    this.#receiving.set(fileId, receiving);
    try {
      await this.#connection.command({ type: 'acceptFile', fileId });
    } catch (error) {
      this.#forget(fileId, () => sink.discard());
      throw error;
    }
    if (receiving.isWhole) await this.#finish(receiving);
    else this.#want(receiving);
  }

  async refuse(fileId: string, why = 'the receiver said no'): Promise<void> {
    await this.#connection.command({ type: 'closeFile', fileId, how: 'refused', why: why.slice(0, MAX_WHY_CHARS) });
  }

  async cancel(fileId: string, why = 'cancelled by hand'): Promise<void> {
    await this.#connection.command({ type: 'closeFile', fileId, how: 'cancelled', why: why.slice(0, MAX_WHY_CHARS) });
  }

  /** Lets it wait, or go on. */
  async setPaused(fileId: string, isPaused: boolean): Promise<void> {
    await this.#connection.command({ type: 'files/setPaused', fileId, isPaused });
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
    this.#forget(fileId, (sink) => sink.discard());
  }

  /** Resolves when nothing of what was not finished is left; `isLeft`: when it lies there for whoever goes on with it. */
  async close(isLeft = false): Promise<void> {
    this.#offs.forEach((off) => off());
    this.#sending.clear();
    for (const fileId of [...this.#receiving.keys()])
      this.#forget(fileId, (sink) => (isLeft && sink.leave ? sink.leave() : sink.discard()));
    this.listeners.clear();
    await Promise.all(this.#closing);
  }

  #nowMs(): number {
    return this.#connection.clock.nowMs();
  }
  #isPaused(fileId: string): boolean {
    return this.#connection.state.slices.files[fileId]?.pausedBy !== undefined;
  }

  #newSending(fileId: string, source: FileToSend, toSeat: number): Sending {
    const isWanted = () => this.#sending.get(fileId) === sending && !this.#isPaused(fileId);
    const sending: Sending = new Sending(source, toSeat, {
      nowMs: () => this.#nowMs(),
      isWanted,
      // What waits in the queue goes only while it is still being sent.
      send: (offset, bytes) => this.#line.sendPlain(toSeat, encodeChunk({ id: fileId, offset, bytes }), isWanted),
    });
    return sending;
  }

  #forget(fileId: string, close: (sink: FileSink) => Promise<void>): void {
    const receiving = this.#receiving.get(fileId);
    this.#rates.delete(fileId);
    if (!receiving) return;
    this.#receiving.delete(fileId);
    const done: Promise<void> = receiving.work
      .catch(() => undefined) // That it could not be written was said when it was.
      .then(() => close(receiving.sink))
      .catch(() => undefined) // A piece that cannot be deleted now is found at the next start.
      .finally(() => this.#closing.delete(done));
    this.#closing.add(done);
  }

  #dropClosed(): void {
    const { files } = this.#connection.state.slices;
    const isMoving = (fileId: string) => files[fileId] === undefined || isUnderWay(files[fileId]);
    for (const fileId of this.#sending.keys()) if (!isMoving(fileId)) this.#sending.delete(fileId);
    for (const fileId of [...this.#receiving.keys()]) {
      if (isMoving(fileId) && !isOver(this.#connection.state)) continue;
      const stage = files[fileId]?.stage;
      // Somebody said no, or it is over: then nothing of it stays. A line that was lost is nobody's no.
      const stays = stage === 'failed' && !isOver(this.#connection.state);
      if (stage === 'arrived') this.#receiving.delete(fileId);
      else this.#forget(fileId, (sink) => (stays && sink.leave ? sink.leave() : sink.discard()));
    }
  }

  #paused(fileId: string, isPaused: boolean): void {
    this.#rates.get(fileId)?.forget();
    const receiving = this.#receiving.get(fileId);
    // What was dropped while it waited is asked for anew.
    if (receiving && !isPaused) this.#want(receiving);
    const sending = this.#sending.get(fileId);
    if (sending && !isPaused) inBackground('sending a file', this.#pump(fileId, sending));
  }

  #want({ file, receivedBytes }: Receiving): void {
    if (this.#isPaused(file.id)) return;
    const sender = this.#connection.state.participants[file.fromId];
    if (sender) this.tell(sender.seat, { type: 'wantFrom', fileId: file.id, offset: receivedBytes });
  }

  #take(fromSeat: number, plain: Uint8Array): void {
    const part = unlessUnreadable(() => decodeFilePart(plain));
    if (!part) return;
    if ('chunk' in part) return this.#takeChunk(part.chunk.id, part.chunk.offset, part.chunk.bytes);
    const { message } = part;
    if (message.type !== 'wantFrom' && message.type !== 'have')
      return this.listeners.emit('message', { fromSeat, message });
    const sending = this.#sending.get(message.fileId);
    if (sending?.toSeat !== fromSeat) return;
    if (message.type === 'have') sending.acknowledged(message.offset);
    else if (!sending.from(message.offset)) return;
    this.#tellProgress(message.fileId, sending.ackedOffset, sending.source.sizeBytes);
    inBackground('sending a file', this.#pump(message.fileId, sending));
  }

  #tellProgress(fileId: string, movedBytes: number, sizeBytes: number): void {
    const rate = this.#rates.get(fileId) ?? new MovedRate();
    this.#rates.set(fileId, rate);
    this.listeners.emit('progress', rate.progress(fileId, movedBytes, sizeBytes, this.#nowMs()));
  }

  async #pump(fileId: string, sending: Sending): Promise<void> {
    try {
      await sending.pump();
    } catch (error) {
      await this.cancel(fileId, `it could not be read: ${String((error as Error).message)}`);
    }
  }

  #takeChunk(fileId: string, offset: number, bytes: Uint8Array): void {
    const receiving = this.#receiving.get(fileId);
    const how = receiving?.take(offset, bytes, this.#nowMs());
    if (receiving && how === 'missed') this.#want(receiving);
    if (receiving && how === 'next')
      receiving.write(bytes).then(
        (isDue) => inBackground('taking a file', this.#wrote(receiving, isDue)),
        (error: unknown) => this.#notWritten(receiving, error),
      );
  }

  #notWritten({ file }: Receiving, error: unknown): void {
    // Each of what was still to be written says so: once is enough.
    if (!this.#receiving.has(file.id)) return;
    this.stop(file.id);
    const { code, message } = error as NodeJS.ErrnoException;
    const why = code === 'ENOSPC' ? 'there is no room for it there' : `it could not be written: ${message}`;
    inBackground('ending a file', this.fail(file.id, why));
  }

  /** It cannot go on, and nobody said no: what came of it stays where the other program keeps it. */
  async fail(fileId: string, why: string): Promise<void> {
    await this.#connection.command({ type: 'closeFile', fileId, how: 'failed', why: why.slice(0, MAX_WHY_CHARS) });
  }

  async #wrote(receiving: Receiving, isDue: boolean): Promise<void> {
    const { file, writtenBytes } = receiving;
    if (!isDue || this.#receiving.get(file.id) !== receiving) return;
    const sender = this.#connection.state.participants[file.fromId];
    if (sender) this.tell(sender.seat, { type: 'have', fileId: file.id, offset: writtenBytes });
    this.#tellProgress(file.id, writtenBytes, file.sizeBytes);
    if (receiving.isWhole) await this.#finish(receiving);
  }

  async #finish(receiving: Receiving): Promise<void> {
    const { file, sink } = receiving;
    if (!this.#receiving.delete(file.id)) return;
    const sha256 = bytesToHex(receiving.digest());
    try {
      if (sha256 === file.sha256) await sink.finish();
      else await sink.discard();
    } catch (error) {
      return this.fail(file.id, `it could not be written: ${String((error as Error).message)}`);
    }
    await this.#connection.command({ type: 'confirmFile', fileId: file.id, sha256 });
  }
}

async function hashInto(hash: RunningHash, source: Pick<FileToSend, 'read'>, sizeBytes: number): Promise<void> {
  for (let offset = 0; offset < sizeBytes; offset += HASH_READ_BYTES)
    hash.update(await source.read(offset, Math.min(HASH_READ_BYTES, sizeBytes - offset)));
}
