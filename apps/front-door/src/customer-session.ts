import {
  FileTransfers,
  inBackground,
  LiveConnection,
  type FileProgress,
  type LiveStatus,
  type RestClient,
  type SocketLike,
} from '@porch/client';
import { consentHolderOf, newSession, tellToCustomer, type SessionState, type ToldEntry } from '@porch/core';
import { makeKeys, type CustomerStep } from '@porch/wire';
import { shallowRef, watch } from 'vue';
import { ledger } from './words/index.ts';
import { BrowserShare } from './share/browser-share.ts';

/** The customer's page of one session: what is true now, in refs. */
export class CustomerSession {
  readonly connection: LiveConnection;
  readonly files: FileTransfers;
  readonly share: BrowserShare;
  readonly state = shallowRef<SessionState>(newSession);
  readonly told = shallowRef<readonly ToldEntry[]>([]);
  readonly status = shallowRef<LiveStatus>('connecting');
  readonly failed = shallowRef('');
  /** The line was gone for longer than the desk keeps a place: whoever is here comes in again. */
  readonly hasLostItsPlace = shallowRef(false);
  #wasAway = false;
  readonly isDoorstepThere = shallowRef(false);
  readonly isPromptOpen = shallowRef(false);
  readonly progress = shallowRef<Readonly<Record<string, FileProgress>>>({});
  #step: CustomerStep = 'page-open';
  #isTellDue = false;
  readonly #stopFollowing: () => void;

  constructor(rest: RestClient) {
    this.connection = new LiveConnection({
      pass: () => rest.doorLive(),
      openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
      keys: makeKeys(),
    });
    this.files = new FileTransfers(this.connection);
    this.share = new BrowserShare(this.connection);
    this.connection.on('entry', () => {
      if (this.#isTellDue) return;
      this.#isTellDue = true;
      queueMicrotask(() => {
        this.#isTellDue = false;
        this.state.value = this.connection.state;
        this.#seeDoorstep();
        this.#tell();
      });
    });
    this.connection.on('status', (status) => {
      this.status.value = status;
      if (status === 'waiting') this.#wasAway = true;
      if (status !== 'live') return;
      this.#wasAway = false;
      this.connection.tellStep(this.#step);
    });
    this.connection.on('presence', () => this.#seeDoorstep());
    this.#stopFollowing = watch(ledger, () => this.#tell());
    this.connection.on('failed', (error) => {
      // Who is put out while the line is there is so for a reason, such as another page of theirs: two would take turns.
      if (error.code === 'NOT_PRESENT' && this.#wasAway) this.hasLostItsPlace.value = true;
      else this.failed.value = error.message;
    });
    this.files.listeners.on(
      'progress',
      (progress) => (this.progress.value = { ...this.progress.value, [progress.fileId]: progress }),
    );
  }

  /** From presence and ledger together: either may be told first. */
  #seeDoorstep(): void {
    const { state, presence } = this.connection;
    const { id, part } = consentHolderOf(state) ?? {};
    const holder = part === 'doorstep' ? presence.find((row) => row.participantId === id) : undefined;
    this.isDoorstepThere.value = holder?.isConnected ?? false;
    this.isPromptOpen.value = holder?.step === 'prompt-open';
  }

  #tell(): void {
    this.told.value = tellToCustomer(this.connection.entries, ledger.value);
  }

  tellStep(step: CustomerStep): void {
    this.#step = step;
    this.connection.tellStep(step);
  }

  close(): void {
    this.#stopFollowing();
    inBackground('ending transfers', this.files.close());
    this.share.close();
    this.connection.close();
  }
}
