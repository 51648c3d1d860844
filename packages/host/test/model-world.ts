import { Listeners, type LiveConnection, type LiveEvents } from '@porch/client';
import { newSession, type Permission, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import {
  decodeFrame,
  encodeWords,
  makeKeys,
  PairwiseChannel,
  sealedChannelOf,
  type SealedName,
  realRandomness,
} from '@porch/wire';
import { GrantBook, type HostAbility, type HostPorts, type Kit, type Running } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [PIM_SEAT, MY_SEAT] = [1, 2];
/** The same for every world: making them is what takes long. */
const [pimKeys, myKeys] = [makeKeys(), makeKeys()];

/** What an exercise needs of the world in which its ability runs. */
export interface Exercise {
  readonly ability: HostAbility;
  readonly permissions: readonly Permission[];
  /** The most outward acts that a thousand askings at once may lead to. */
  readonly mostFromFlood: number;
  ports(world: ModelWorld): Partial<HostPorts>;
  /** Something that another ability offers. */
  prepare?(world: ModelWorld): void;
  /** What a technician does to have it act; a fresh one each time. */
  act(world: ModelWorld): void;
  /** Whether a message that left says or holds anything of the computer; a refusal does not. */
  isOutward?(channel: SealedName, message: unknown): boolean;
}

/** One ability at the customer's side, a technician at the other end of the line, and a count of what went out. */
export class ModelWorld {
  readonly time = new VirtualClock();
  readonly kit: Kit;
  readonly grants: GrantBook;
  readonly running: Running;
  readonly pim = pimKeys;
  readonly connection: LiveConnection;
  /** What was done to the computer, and what left it. */
  readonly outward: string[] = [];
  readonly errors: unknown[] = [];
  pausedBy: string | undefined;
  readonly #me = myKeys;
  #isClosed = false;
  readonly #listeners = new Listeners<LiveEvents>();
  readonly #lines = new Map<SealedName, PairwiseChannel>();
  readonly #exercise: Exercise;

  constructor(exercise: Exercise) {
    this.#exercise = exercise;
    const state: SessionState = {
      ...newSession,
      hasAccepted: true,
      holderId: 'me',
      participants: {
        pim: participantOf('pim', PIM_SEAT, 'lead', { keys: this.pim }),
        me: participantOf('me', MY_SEAT, 'doorstep', { keys: this.#me }),
      },
    };
    const { time } = this;
    this.connection = {
      sessionId: SESSION,
      participantId: 'me',
      keys: this.#me,
      seat: MY_SEAT,
      state,
      status: 'live',
      viewers: [],
      hasRoom: true,
      messageBytes: 64 * 1024,
      bytesPerSecond: 1e6,
      get serviceNowMs() {
        return time.nowMs();
      },
      clock: time,
      random: realRandomness,
      on: this.#listeners.on.bind(this.#listeners),
      command: () => Promise.resolve(),
      setPictureTaker: () => undefined,
      watch: () => undefined,
      handled: () => undefined,
      sendFrame: (bytes: Uint8Array) => this.#left(bytes),
      sendFresh: (bytes: Uint8Array) => this.#left(bytes),
      sendBulk: (bytes: Uint8Array) => this.#left(bytes),
    } as unknown as LiveConnection;
    this.grants = new GrantBook(this.#me, SESSION, 0);
    const { kit } = fakeKit(this.connection, this.grants, exercise.ports(this), undefined, time);
    kit.held.pausedBy = () => this.pausedBy;
    this.kit = { ...kit, log: { ...kit.log, error: (what) => void this.errors.push(what) } };
    exercise.prepare?.(this);
    this.running = exercise.ability.begin(this.kit);
  }

  allow(forMs = 1e9): void {
    const nowMs = this.time.nowMs();
    for (const permission of this.#exercise.permissions) this.grants.grant(permission, this.pim, nowMs + forMs, nowMs);
    this.running.changed?.();
  }

  /** The technician says something, sealed as their program would. */
  say(channel: SealedName, message: unknown, display = 0): void {
    this.sayPlain(channel, encodeWords(message), display);
  }
  sayPlain(channel: SealedName, plain: Uint8Array, display = 0): void {
    const bytes = this.#line(channel).seal(plain, display, 1);
    this.tellFrame(bytes);
  }
  tellFrame(bytes: Uint8Array): void {
    this.#listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  }
  /** Who looks, as the service says it; heard as the host hears it. */
  look(viewers: LiveConnection['viewers']): void {
    this.connection.viewers = viewers;
    if (!this.#isClosed) this.running.changed?.();
  }
  /** What the session says from now on. */
  become(change: Partial<SessionState>): void {
    Object.assign(this.connection, { state: { ...this.connection.state, ...change } });
    this.changed();
  }
  async close(): Promise<void> {
    this.#isClosed = true;
    await this.running.close();
  }
  did(what: string): void {
    this.outward.push(what);
  }
  changed(): void {
    this.kit.held.follow();
    if (!this.#isClosed) this.running.changed?.();
  }

  #line(channel: SealedName): PairwiseChannel {
    const known = this.#lines.get(channel);
    if (known) return known;
    const made = new PairwiseChannel({
      sessionId: SESSION,
      mine: this.pim,
      mySeat: PIM_SEAT,
      theirAgreeKey: this.#me.agreeKey,
      theirStartId: this.#me.startId,
      theirSeat: MY_SEAT,
      channel,
    });
    this.#lines.set(channel, made);
    return made;
  }

  #left(bytes: Uint8Array): boolean {
    const frame = decodeFrame(bytes);
    const channel = sealedChannelOf(frame.channel);
    if (!channel) {
      this.outward.push(frame.channel);
      return true;
    }
    const { plain } = this.#line(channel.name as SealedName).open(bytes);
    const words = plain[0] === 0 ? (JSON.parse(new TextDecoder().decode(plain.subarray(1))) as unknown) : 'a piece';
    if (this.#exercise.isOutward?.(channel.name as SealedName, words) ?? true) this.outward.push(channel.name);
    return true;
  }
}
