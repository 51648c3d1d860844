import {
  FileTransfers,
  InputLease,
  LiveConnection,
  type LeaseState,
  type LiveStatus,
  type RestClient,
  type SocketLike,
} from '@porch/client';
import {
  isEffective,
  newSession,
  standingOf,
  tellLedger,
  type Permission,
  type SessionState,
  type ToldEntry,
} from '@porch/core';
import {
  decodeCursorShape,
  decodePoint,
  encodeAck,
  inflateInPlainCode,
  PictureError,
  ViewerPicture,
  type CursorShape,
  type PaintedTile,
} from '@porch/screen';
import { encodeFrame, frameKinds, makeKeys, type AsideMessage, type CustomerStep, type Frame } from '@porch/wire';
import { shallowRef, type ShallowRef } from 'vue';

/** How long the stage says that input was not done. */
const DROPPED_WORD_MS = 4_000;

export interface Painter {
  resize(width: number, height: number): void;
  paint(tiles: readonly PaintedTile[]): void;
  cursorShape(shape: CursorShape): void;
  cursorAt(x: number, y: number): void;
  forget(): void;
}

/** One session as its technician has it open: connection, lease, files, picture. Lives until closed, on whatever page. */
export class TechnicianSession {
  readonly id: string;
  readonly connection: LiveConnection;
  readonly lease: InputLease;
  readonly files: FileTransfers;
  readonly state: ShallowRef<SessionState> = shallowRef(newSession);
  readonly told: ShallowRef<readonly ToldEntry[]> = shallowRef([]);
  readonly asides: ShallowRef<readonly AsideMessage[]> = shallowRef([]);
  readonly status: ShallowRef<LiveStatus> = shallowRef('connecting');
  readonly step: ShallowRef<CustomerStep | undefined> = shallowRef();
  readonly isHolderThere: ShallowRef<boolean> = shallowRef(false);
  readonly leaseState: ShallowRef<LeaseState> = shallowRef({ name: 'closed', why: '' });
  readonly progress: ShallowRef<Readonly<Record<string, number>>> = shallowRef({});
  readonly failed: ShallowRef<string> = shallowRef('');
  readonly hasPicture: ShallowRef<boolean> = shallowRef(false);
  readonly dropped: ShallowRef<string> = shallowRef('');
  readonly unread: ShallowRef<number> = shallowRef(0);
  readonly #picture = new ViewerPicture(inflateInPlainCode);
  #painter: Painter | undefined;
  #droppedTimer: ReturnType<typeof setTimeout> | undefined;
  #isShown = false;
  #isTellDue = false;
  #cursor: CursorShape | undefined;

  constructor(rest: RestClient, id: string) {
    this.id = id;
    this.connection = new LiveConnection({
      ticket: () => rest.liveTicket(id),
      openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
      keys: makeKeys(),
    });
    this.lease = new InputLease(this.connection, () => ({
      update: this.#picture.newestUpdate,
      display: 0,
      generation: Math.max(0, this.#picture.generation),
    }));
    this.files = new FileTransfers(this.connection);
    this.connection.on('entry', (entry) => {
      if (entry.event.type === 'chatSent' && !this.#isShown && entry.event.by !== this.connection.participantId)
        this.unread.value++;
      if (
        entry.event.type === 'permissionGranted' ||
        entry.event.type === 'permissionWithdrawn' ||
        entry.event.type === 'sessionEnded' ||
        entry.event.type === 'screenLost'
      )
        this.#followPermissions();
      this.#tellSoon();
    });
    this.connection.on('status', (status) => {
      this.status.value = status;
      if (status === 'live') this.#watch();
    });
    this.connection.on('presence', (rows) => {
      this.step.value = rows.find((row) => row.step)?.step;
      this.isHolderThere.value = rows.some(
        (row) => row.isConnected && row.participantId === this.connection.state.holderId,
      );
    });
    this.connection.on('asides', (asides) => (this.asides.value = asides));
    this.connection.on('frame', ({ frame, bytes }) => this.#takeFrame(frame, bytes.byteLength));
    this.connection.on('failed', (error) => (this.failed.value = error.message));
    this.lease.listeners.on('state', (state) => (this.leaseState.value = state));
    this.lease.listeners.on('dropped', (why) => {
      this.dropped.value = why;
      clearTimeout(this.#droppedTimer);
      this.#droppedTimer = setTimeout(() => (this.dropped.value = ''), DROPPED_WORD_MS);
    });
    this.files.listeners.on(
      'progress',
      ({ fileId, movedBytes, sizeBytes }) =>
        (this.progress.value = { ...this.progress.value, [fileId]: sizeBytes ? movedBytes / sizeBytes : 1 }),
    );
  }

  may(permission: Permission): boolean {
    return isEffective(
      standingOf(this.state.value, this.connection.participantId, permission),
      this.connection.serviceNowMs,
    );
  }

  /** A page shows this session; hands back its stop. */
  show(): () => void {
    this.#isShown = true;
    this.unread.value = 0;
    return () => {
      this.#isShown = false;
      this.lease.release();
    };
  }

  /** Frames go straight to the canvas: they must not pass through reactivity. */
  setPainter(painter: Painter | undefined): void {
    this.#painter = painter;
    if (!painter) return;
    // A new canvas is empty, and the relay thinks we have everything: ask from the start.
    this.#picture.forget();
    this.hasPicture.value = false;
    if (this.#cursor) painter.cursorShape(this.#cursor);
    this.connection.watch(0, false);
    this.connection.watch(0, true);
  }

  close(): void {
    this.lease.close();
    this.files.close();
    this.connection.close();
  }

  #watch(): void {
    this.#picture.forget();
    this.connection.watch(0, this.#painter !== undefined);
  }

  #tellSoon(): void {
    if (this.#isTellDue) return;
    this.#isTellDue = true;
    queueMicrotask(() => {
      this.#isTellDue = false;
      this.state.value = this.connection.state;
      this.told.value = tellLedger(this.connection.entries, 'technician');
    });
  }

  #followPermissions(): void {
    const { state, participantId, serviceNowMs } = this.connection;
    if (isEffective(standingOf(state, participantId, 'view-screen'), serviceNowMs)) return;
    this.#picture.forget();
    this.#painter?.forget();
    this.hasPicture.value = false;
  }

  #takeFrame(frame: Frame, sizeBytes: number): void {
    try {
      if (frame.channel === 'screen' && frame.kind === frameKinds.screen.update) this.#takeUpdate(frame, sizeBytes);
      else if (frame.channel === 'cursor' && frame.kind === frameKinds.cursor.shape)
        this.#painter?.cursorShape((this.#cursor = decodeCursorShape(frame.payload)));
      else if (frame.channel === 'cursor') {
        const { x, y } = decodePoint(frame.payload);
        this.#painter?.cursorAt(x, y);
      }
    } catch (error) {
      if (!(error instanceof PictureError)) throw error;
    }
  }

  #takeUpdate(frame: Frame, sizeBytes: number): void {
    const { tiles, isNewSize } = this.#picture.take(frame.payload, frame.displayGeneration);
    const grid = this.#picture.grid;
    if (isNewSize && grid) this.#painter?.resize(grid.width, grid.height);
    this.#painter?.paint(tiles);
    if (tiles.length && !this.hasPicture.value) this.hasPicture.value = true;
    this.connection.sendFrame(
      encodeFrame({
        ...frame,
        kind: frameKinds.screen.paintedAck,
        senderSeat: this.connection.seat,
        receiverSeat: 0,
        counter: 0n,
        payload: encodeAck(sizeBytes),
      }),
    );
  }
}
