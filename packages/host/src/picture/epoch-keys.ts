import type { Watcher } from '@porch/client';
import { realClock, realRandomness, type Clock, type PictureMessage, type Randomness } from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';

/** Those who stay get this long to say that they have the new key; who has not, starts over. */
const TAKE_MS = 1_000;

/** Of one who looks only this decides who has which key. */
export type EpochViewer = Omit<Watcher, 'displays'>;

/**
 * The content key of those who may look. Whoever comes or goes begins a new epoch with a new key: a newcomer cannot read
 * what was before, and whoever is out cannot read what comes after. Going never waits for anybody.
 */
export class EpochKeys {
  readonly #tellViewer: (seat: number, message: PictureMessage) => unknown;
  readonly #onEpoch: () => void;
  #viewers: readonly EpochViewer[] = [];
  #epoch = 0;
  #secret = '';
  #next: { epoch: number; secret: string; waitingFor: Set<number>; endWaiting: () => void } | undefined;

  readonly #clock: Clock;
  readonly #random: Randomness;
  readonly #lastEpoch: number;

  /** `lastEpoch`: of what the same start of this program showed before. */
  constructor(
    tellViewer: (seat: number, message: PictureMessage) => unknown,
    onEpoch: () => void,
    clock: Clock = realClock,
    random: Randomness = realRandomness,
    lastEpoch = 0,
  ) {
    this.#tellViewer = tellViewer;
    this.#onEpoch = onEpoch;
    this.#clock = clock;
    this.#random = random;
    this.#lastEpoch = lastEpoch;
  }

  /** 0 while nobody may look. */
  get epoch(): number {
    return this.#epoch;
  }
  get secret(): string {
    return this.#secret;
  }

  setViewers(viewers: readonly EpochViewer[]): void {
    const stays = this.#viewers.filter((old) => viewers.some((v) => v.start === old.start));
    const isSame = stays.length === this.#viewers.length && stays.length === viewers.length;
    if (isSame) {
      this.#viewers = viewers;
      return;
    }
    const someoneWent = stays.length < this.#viewers.length;
    this.#viewers = viewers;
    this.begin(someoneWent ? 'at once' : 'when taken');
  }

  /** A new key. What is hidden or withdrawn from now on takes effect at once. */
  begin(how: 'at once' | 'when taken'): void {
    this.#next?.endWaiting();
    const epoch = Math.max(this.#lastEpoch, this.#epoch, this.#next?.epoch ?? 0) + 1;
    const secret = bytesToHex(this.#random.bytes(32));
    const next = {
      epoch,
      secret,
      waitingFor: new Set(this.#viewers.map((v) => v.seat)),
      endWaiting: this.#clock.after(TAKE_MS, () => this.#switch()),
    };
    this.#next = next;
    for (const viewer of this.#viewers) this.#tell(viewer.seat, next);
    if (how === 'at once' || !this.#viewers.length || this.#epoch === 0) this.#switch();
  }

  taken(seat: number, epoch: number): void {
    if (this.#next?.epoch !== epoch) return;
    this.#next.waitingFor.delete(seat);
    if (!this.#next.waitingFor.size) this.#switch();
  }

  /** Tells a viewer the key that is used, and the one that comes. */
  tellAgain(seat: number): void {
    if (!this.#viewers.some((v) => v.seat === seat)) return;
    if (this.#epoch > 0) this.#tell(seat, { epoch: this.#epoch, secret: this.#secret });
    if (this.#next) this.#tell(seat, this.#next);
  }

  close(): void {
    this.#next?.endWaiting();
    this.#next = undefined;
    this.#viewers = [];
    this.#secret = '';
  }

  #tell(seat: number, { epoch, secret }: { epoch: number; secret: string }): void {
    this.#tellViewer(seat, { type: 'epochKey', epoch, secret });
  }

  #switch(): void {
    const next = this.#next;
    if (!next) return;
    next.endWaiting();
    this.#next = undefined;
    this.#epoch = next.epoch;
    this.#secret = next.secret;
    this.#onEpoch();
  }
}
