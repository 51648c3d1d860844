import {
  FileTransfers,
  InputLease,
  LiveConnection,
  OLD_MS,
  TechnicianDoor,
  TechnicianDrawing,
  TechnicianPicture,
  TechnicianWords,
  type LeaseState,
  type PictureAim,
  type LiveStatus,
  type RestClient,
  type SecretState,
  type ShownMark,
  type SocketLike,
} from '@porch/client';
import {
  isEffective,
  isOver,
  newSession,
  standingOf,
  tellLedger,
  type Permission,
  type SessionState,
  type ToldEntry,
} from '@porch/core';
import {
  defaultBounds,
  THUMBNAIL_FROM,
  type InputAct,
  type AsideMessage,
  type CustomerStep,
  type DisplayRow,
  type PictureBounds,
  type PictureMessage,
} from '@porch/wire';
import { shallowRef, type ShallowRef } from 'vue';
import { forgetKeys, keysOfTab } from './kept-keys.ts';
import { StagePort, type StageEvents } from './stage-port.ts';

/** How long the stage says that input was not done. */
const DROPPED_WORD_MS = 4_000;

/** What the picture is like just now, in numbers that mean something to a person. */
export interface PictureNow {
  readonly bitsPerSecond: number;
  readonly framesPerSecond: number;
  /** From an act of ours to the next change of the picture; undefined while nobody works. */
  readonly inputDelayMs: number | undefined;
  /** Since everything shown was surely the newest; undefined before that was ever so. */
  readonly ageMs: number | undefined;
  readonly refused: number;
}
/** What a stage needs to be called with when something is to be painted. */
export type StageHandlers = Pick<StageEvents, 'onSize' | 'onCursorShape' | 'onCursorAt'>;

const NOW_MS = 1_000;
/** A change that comes this long after an act has another cause. */
const LONGEST_DELAY_MS = 2_000;
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
  readonly displays: ShallowRef<readonly DisplayRow[]> = shallowRef([]);
  readonly sourceNow: ShallowRef<Extract<PictureMessage, { type: 'sourceNow' }> | undefined> = shallowRef();
  readonly pictureNow: ShallowRef<PictureNow | undefined> = shallowRef();
  readonly bounds: ShallowRef<PictureBounds> = shallowRef(defaultBounds);
  readonly words: ShallowRef<readonly string[]> = shallowRef([]);
  /** How many sets of words there were in this session. */
  readonly wordTries: ShallowRef<number> = shallowRef(0);
  /** Whether this technician holds the session, or takes it over just now: only then is there anything to ask. */
  readonly isLead: ShallowRef<boolean> = shallowRef(false);
  /** For visits to devices: where the second secret stands. */
  readonly secret: ShallowRef<SecretState> = shallowRef({ name: 'notNeeded' });
  /** What was pointed at and drawn from here. */
  readonly marks: ShallowRef<readonly ShownMark[]> = shallowRef([]);
  readonly look: TechnicianPicture;
  readonly checkWords: TechnicianWords;
  readonly door: TechnicianDoor;
  readonly drawing: TechnicianDrawing;
  readonly #stages = new Map<number, StagePort>();
  readonly #nowTimer: ReturnType<typeof setInterval>;
  #workedDisplay = 0;
  #bytes = 0;
  #painted = 0;
  #actedAtMs: number | undefined;
  #inputDelayMs: number | undefined;
  #standing: { ageMs: number | undefined; refused: number } = { ageMs: undefined, refused: 0 };
  #droppedTimer: ReturnType<typeof setTimeout> | undefined;
  #isShown = false;
  #isTellDue = false;

  constructor(rest: RestClient, id: string) {
    this.id = id;
    this.connection = new LiveConnection({
      pass: () => rest.livePass(id),
      openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
      keys: keysOfTab(id),
    });
    this.lease = new InputLease(this.connection, () => this.#aim);
    this.look = new TechnicianPicture(this.connection);
    this.checkWords = new TechnicianWords(this.connection);
    this.door = new TechnicianDoor(this.connection);
    this.drawing = new TechnicianDrawing(this.connection);
    this.drawing.listeners.on('marks', (marks) => (this.marks.value = marks));
    this.look.listeners.on('displays', (displays) => (this.displays.value = displays));
    this.look.listeners.on('sourceNow', (now) => (this.sourceNow.value = now));
    this.checkWords.listeners.on('words', (words) => {
      this.words.value = words;
      this.wordTries.value = this.checkWords.tries;
    });
    this.door.listeners.on('secret', (state) => (this.secret.value = state));
    this.#nowTimer = setInterval(() => this.#tellNow(), NOW_MS);
    this.files = new FileTransfers(this.connection);
    this.connection.on('entry', (entry) => {
      if (entry.event.type === 'chatSent' && !this.#isShown && entry.event.by !== this.connection.participantId)
        this.unread.value++;
      this.#followPermissions();
      this.#tellSoon();
    });
    this.connection.on('status', (status) => {
      this.status.value = status;
    });
    this.connection.on('presence', (rows) => {
      // Doorstep, once it is there, says where they are; what the page said before is over.
      const holder = rows.find((row) => row.participantId === this.connection.state.holderId && row.isConnected);
      const isDoorstep = this.#holderRole === 'doorstep';
      this.step.value = holder && isDoorstep ? (holder.step ?? 'ready') : rows.find((row) => row.step)?.step;
      this.isHolderThere.value = rows.some(
        (row) => row.isConnected && row.participantId === this.connection.state.holderId,
      );
    });
    this.connection.on('asides', (asides) => (this.asides.value = asides));
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

  get #holderRole() {
    const { holderId, participants } = this.connection.state;
    return holderId === undefined ? undefined : participants[holderId]?.role;
  }

  /** What a participant's computer calls itself, as it said when it came in. */
  computerOf(participantId: string | undefined): string | undefined {
    const joined = this.connection.entries.find(
      ({ event }) => event.type === 'participantJoined' && event.participantId === participantId,
    )?.event;
    return joined?.type === 'participantJoined' ? joined.personal?.computer : undefined;
  }

  /** Resolves once this technician is out of the session, for whatever reason. */
  whenOut(): Promise<void> {
    if (this.connection.status === 'closed') return Promise.resolve();
    return new Promise((resolve) => {
      const off = this.connection.on('failed', () => {
        off();
        resolve();
      });
    });
  }

  /** Whether the customer's page shows the picture: it can be looked at only. */
  get isFromBrowser(): boolean {
    const { holderId, participants } = this.state.value;
    return holderId !== undefined && participants[holderId]?.role === 'customer-page';
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

  /** Shows one display on a canvas, which is the worker's from then on. Hands back the stop. */
  showDisplay(display: number, canvas: HTMLCanvasElement, handlers: StageHandlers): () => void {
    this.#stages.get(display)?.close();
    const port: StagePort = new StagePort(display, canvas, {
      ...handlers,
      onPainted: () => {
        if (display >= THUMBNAIL_FROM) return;
        this.#painted++;
        if (!this.hasPicture.value) this.hasPicture.value = true;
        if (this.#actedAtMs === undefined) return;
        const delayMs = performance.now() - this.#actedAtMs;
        this.#actedAtMs = undefined;
        if (delayMs < LONGEST_DELAY_MS)
          this.#inputDelayMs = this.#inputDelayMs === undefined ? delayMs : this.#inputDelayMs * 0.7 + delayMs * 0.3;
      },
      onStanding: (standing) => {
        if (display >= THUMBNAIL_FROM) return;
        const wasOld = this.isOld;
        this.#standing = standing;
        // An old picture is not worked with: what is hit might not be there any longer.
        if (this.isOld && !wasOld) this.lease.release();
        if (this.isOld !== wasOld) this.#tellNow();
      },
      onHandled: (bytes) => {
        this.#bytes += bytes;
        this.connection.handled(bytes);
      },
      onNeedKey: () => this.look.needKey(),
    });
    this.#stages.set(display, port);
    const close = this.look.open(port);
    return () => {
      if (this.#stages.get(display) === port) this.#stages.delete(display);
      close();
      port.close();
      if (![...this.#stages.keys()].some((d) => d < THUMBNAIL_FROM)) this.hasPicture.value = false;
    };
  }

  /** Works one display; what is aimed at is what its stage shows. */
  act(display: number, act: InputAct): boolean {
    const port = this.#stages.get(display);
    if (this.isOld || !port) return false;
    this.#workedDisplay = display;
    const isSent = this.lease.act(act);
    if (isSent && (!('isDown' in act) || act.isDown) && act.act !== 'move') this.#actedAtMs ??= performance.now();
    return isSent;
  }

  /** Whether nobody has vouched for the picture lately. */
  get isOld(): boolean {
    return this.#standing.ageMs !== undefined && this.#standing.ageMs > OLD_MS;
  }

  setBounds(bounds: PictureBounds): void {
    this.bounds.value = bounds;
    this.look.setBounds(bounds);
  }

  close(): void {
    clearInterval(this.#nowTimer);
    this.lease.close();
    this.look.close();
    this.checkWords.close();
    this.door.close();
    this.drawing.close();
    this.files.close().catch(() => undefined); // Only pieces in memory: they go with the page.
    for (const port of this.#stages.values()) port.close();
    this.#stages.clear();
    this.connection.close();
  }

  get #aim(): PictureAim {
    return this.#stages.get(this.#workedDisplay)?.aim ?? { update: 0, display: this.#workedDisplay, generation: 0 };
  }

  #tellNow(): void {
    this.pictureNow.value = {
      bitsPerSecond: this.#bytes * 8,
      framesPerSecond: this.#painted,
      inputDelayMs: this.lease.state.name === 'open' ? this.#inputDelayMs : undefined,
      ...this.#standing,
    };
    this.#bytes = 0;
    this.#painted = 0;
  }

  #tellSoon(): void {
    if (this.#isTellDue) return;
    this.#isTellDue = true;
    queueMicrotask(() => {
      this.#isTellDue = false;
      this.state.value = this.connection.state;
      const { leadId, handover, participants } = this.connection.state;
      const me = participants[this.connection.participantId];
      const isTakingOver = handover?.stage === 'accepted' && handover.toTechnicianId === me?.technicianId;
      this.isLead.value = me !== undefined && !me.isGone && (leadId === me.id || isTakingOver);
      if (isOver(this.connection.state)) forgetKeys(this.id);
      this.told.value = tellLedger(this.connection.entries, 'technician');
    });
  }

  #followPermissions(): void {
    const { state, participantId, serviceNowMs } = this.connection;
    if (isEffective(standingOf(state, participantId, 'view-screen'), serviceNowMs)) return;
    this.look.forget();
    this.#standing = { ageMs: undefined, refused: 0 };
    this.hasPicture.value = false;
    this.drawing.forget();
  }
}
