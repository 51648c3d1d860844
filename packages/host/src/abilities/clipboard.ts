import { PieceReceiver, PieceSender, SealedLine, unlessUnreadable } from '@porch/client';
import { presentOf, type ClipKind, type Participant } from '@porch/core';
import {
  clipboardChannel,
  decodeChunk,
  decodeWords,
  encodeChunk,
  randomId,
  WORDS_TAG,
  type ClipboardMessage,
} from '@porch/wire';
import type { Lease } from '../consent/held.ts';
import { beginWith, type HostAbility, type Kit, type Running } from '../kit.ts';
import type { ClipboardPort, ClipContent, Copied } from '../ports/clipboard-port.ts';
import { whyWithout } from '../ports/host-ports.ts';

/** Whoever sends nothing more of what they put there for this long has given it up. */
const STALE_MS = 30_000;

/** Puts what technicians copied onto the clipboard here, and lets them read what is copied here from now on. */
export const clipboard: HostAbility = {
  name: 'clipboard',
  whyNot: (_permission, ports) => whyWithout(ports, 'clipboard'),
  warn: ({ permission, words }) => (permission === 'read-clipboard' ? words.clipboard.reads : undefined),
  begin: (kit) => beginWith(kit.ports.clipboard, (port) => new ClipDesk(kit, port)),
};

/** Nobody copies or pastes faster than this: of copies the last one counts, and what is put there is refused. */
const LEAST_GAP_MS = 50;

interface Coming {
  readonly copyId: string;
  readonly lease: Lease;
  readonly pieces: PieceReceiver;
  heardAtMs: number;
}
interface Offered {
  readonly copyId: string;
  readonly copied: Copied;
  readonly to: ReadonlyMap<number, Lease>;
  /** By seat and kind: what is on its way to somebody. */
  readonly sending: Map<string, PieceSender>;
}
type Put = Extract<ClipboardMessage, { type: 'put' }>;
type PutFiles = Extract<ClipboardMessage, { type: 'putFiles' }>;
type Want = Extract<ClipboardMessage, { type: 'want' }>;

class ClipDesk implements Running {
  readonly #kit: Kit;
  readonly #port: ClipboardPort;
  readonly #line: SealedLine<ClipboardMessage>;
  readonly #off: () => void;
  /** By technician's seat: one thing at a time. */
  readonly #coming = new Map<number, Coming>();
  /** The newest copy here, and to whom it was offered while they might read. */
  #offered: Offered | undefined;
  #endFollowing: (() => void) | undefined;
  #offeredAtMs = -Infinity;
  #cancelOffer: (() => void) | undefined;
  /** By technician's seat: when something of theirs was put there last. */
  readonly #putAtMs = new Map<number, number>();

  constructor(kit: Kit, port: ClipboardPort) {
    this.#kit = kit;
    this.#port = port;
    this.#line = new SealedLine(kit.connection, clipboardChannel);
    this.#off = this.#line.listenPlain(
      (from, plain) => this.#hear(from, plain),
      (from) => from.side === 'desk' && !from.isGone && this.#mayAny(from),
    );
  }

  /** The clipboard is followed while anybody may read it, and not a moment longer. */
  changed(): void {
    for (const [seat, { lease }] of this.#coming) if (lease.state.name === 'over') this.#drop(seat);
    const mayRead = this.#readers.length > 0;
    if (mayRead) this.#endFollowing ??= this.#port.follow(this.#mostBytes, (copied) => this.#offerSoon(copied));
    else this.#stopFollowing();
  }

  close(): void {
    this.#off();
    this.#stopFollowing();
    for (const seat of [...this.#coming.keys()]) this.#drop(seat);
  }

  get #mostBytes(): number {
    return this.#kit.desk.maxClipboardBytes;
  }
  get #readers(): Participant[] {
    return presentOf(this.#kit.connection.state, 'desk').filter(({ signKey }) =>
      this.#kit.held.holds('read-clipboard', signKey),
    );
  }
  #mayAny({ signKey }: Participant): boolean {
    return this.#kit.held.holds('give-clipboard', signKey) || this.#kit.held.holds('read-clipboard', signKey);
  }
  #stopFollowing(): void {
    this.#endFollowing?.();
    this.#endFollowing = undefined;
    this.#cancelOffer?.();
    this.#cancelOffer = undefined;
    this.#offered = undefined;
  }

  #offerSoon(copied: Copied): void {
    this.#cancelOffer?.();
    const offer = () => {
      this.#cancelOffer = undefined;
      this.#offeredAtMs = this.#kit.time.nowMs();
      this.#offer(copied);
    };
    const waitMs = this.#offeredAtMs + LEAST_GAP_MS - this.#kit.time.nowMs();
    if (waitMs <= 0) offer();
    else this.#cancelOffer = this.#kit.time.after(waitMs, offer);
  }

  /** Kinds, names and sizes go out, and nothing of what was copied. */
  #offer(copied: Copied): void {
    const copyId = randomId(this.#kit.random);
    const to = new Map<number, Lease>();
    for (const { seat, signKey } of this.#readers) {
      const lease = this.#kit.held.during('read-clipboard', signKey);
      if (!lease.isRunning) continue;
      to.set(seat, lease);
      const { parts, files } = copied;
      this.#line.send(seat, { type: 'copied', offer: { copyId, parts: [...parts], files: [...files] } });
    }
    this.#offered = { copyId, copied, to, sending: new Map() };
  }

  #hear(from: Participant, plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      const coming = this.#coming.get(from.seat);
      if (!chunk || coming?.copyId !== chunk.id || !coming.lease.isRunning) return;
      coming.heardAtMs = this.#kit.time.nowMs();
      coming.pieces.take(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(clipboardChannel, plain));
    if (message?.type === 'want') this.#send(from, message);
    else if (message?.type === 'put') this.#receive(from, message);
    else if (message?.type === 'putFiles') this.#putFiles(from, message);
    else if (message?.type === 'stopped' && this.#coming.get(from.seat)?.copyId === message.copyId)
      this.#drop(from.seat);
  }

  #drop(seat: number): void {
    this.#coming.get(seat)?.pieces.close();
    this.#coming.delete(seat);
  }
  #refuse({ seat }: Participant, copyId: string, why: string): void {
    if (this.#coming.get(seat)?.copyId === copyId) this.#drop(seat);
    this.#line.send(seat, { type: 'refused', copyId, why: why.slice(0, 120) });
  }

  #send(from: Participant, { copyId, kind, offset }: Want): void {
    const offered = this.#offered?.copyId === copyId ? this.#offered : undefined;
    const lease = offered?.to.get(from.seat);
    if (!offered || !lease) return this.#refuse(from, copyId, 'something else was copied meanwhile');
    if (lease.state.name === 'paused') return this.#refuse(from, copyId, lease.state.why);
    if (!lease.isRunning) return this.#refuse(from, copyId, 'the customer has not allowed it');
    const bytes = this.#port.bytesOf(offered.copied.number, kind);
    if (!bytes) return this.#refuse(from, copyId, 'something else was copied meanwhile');
    // Told when it begins: a part of it is as much read as all of it.
    if (offset === 0) this.#tellMoved(from, 'read', kind, bytes.length);
    if (offset >= bytes.length) return;
    const key = `${from.seat} ${kind}`;
    const sending = offered.sending.get(key) ?? new PieceSender(bytes, copyId, this.#kit.time);
    offered.sending.set(key, sending);
    const may = () => lease.isRunning;
    sending.sendFrom(offset, (chunk) => may() && this.#line.sendPlain(from.seat, encodeChunk(chunk), may));
  }

  #mayPut(from: Participant, copyId: string): Lease | undefined {
    const lease = this.#kit.held.during('give-clipboard', from.signKey);
    if (lease.state.name === 'paused') this.#refuse(from, copyId, lease.state.why);
    else if (!lease.isRunning) this.#refuse(from, copyId, 'the customer has not allowed it');
    else if (this.#kit.time.nowMs() - (this.#putAtMs.get(from.seat) ?? -Infinity) < LEAST_GAP_MS)
      this.#refuse(from, copyId, 'too many are on their way');
    else return lease;
    return undefined;
  }

  #receive(from: Participant, { copyId, kind, sizeBytes }: Put): void {
    const lease = this.#mayPut(from, copyId);
    if (!lease) return;
    if (sizeBytes > this.#mostBytes) return this.#refuse(from, copyId, 'it is more than the desk allows');
    const busy = this.#coming.get(from.seat);
    if (busy && this.#kit.time.nowMs() - busy.heardAtMs < STALE_MS)
      return this.#refuse(from, copyId, 'too many are on their way');
    this.#drop(from.seat);
    if (sizeBytes === 0) return void this.#place(from, copyId, lease, { kind, bytes: new Uint8Array() }, 0);
    const pieces = new PieceReceiver(
      sizeBytes,
      (offset) => this.#line.send(from.seat, { type: 'want', copyId, kind, offset }),
      (bytes) => this.#place(from, copyId, lease, { kind, bytes }, sizeBytes),
      this.#kit.time,
    );
    this.#coming.set(from.seat, { copyId, lease, pieces, heardAtMs: this.#kit.time.nowMs() });
  }

  /** Files that this technician gave, and that have arrived: they came by the leave for files. */
  #putFiles(from: Participant, { copyId, fileIds }: PutFiles): void {
    const lease = this.#mayPut(from, copyId);
    if (!lease) return;
    const paths = fileIds.flatMap((fileId) => this.#kit.shared.arrivedFile(fileId, from.signKey) ?? []);
    if (paths.length !== fileIds.length) return this.#refuse(from, copyId, 'not all of the files have arrived');
    const { files } = this.#kit.connection.state.slices;
    const sizeBytes = fileIds.reduce((sum, fileId) => sum + (files[fileId]?.sizeBytes ?? 0), 0);
    this.#place(from, copyId, lease, { kind: 'files', paths }, sizeBytes);
  }

  #place(from: Participant, copyId: string, lease: Lease, content: ClipContent, sizeBytes: number): void {
    this.#coming.delete(from.seat);
    if (!lease.isRunning) return this.#refuse(from, copyId, 'the customer has not allowed it');
    this.#putAtMs.set(from.seat, this.#kit.time.nowMs());
    this.#port.put(content).then(
      () => {
        this.#tellMoved(from, 'given', content.kind, sizeBytes);
        this.#line.send(from.seat, { type: 'placed', copyId });
      },
      (error: unknown) => {
        this.#kit.log.warn({ why: String(error) }, 'nothing could be put onto the clipboard');
        this.#refuse(from, copyId, 'it could not be put there');
      },
    );
  }

  #tellMoved({ id: participantId }: Participant, direction: 'given' | 'read', kind: ClipKind, sizeBytes: number): void {
    this.#kit.report((fact) => ({ type: 'clipboard/tellMoved', participantId, direction, kind, sizeBytes, fact }));
  }
}
