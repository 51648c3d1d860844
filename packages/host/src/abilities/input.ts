import { LEASE_SILENCE_MS, SealedLine, type LiveConnection } from '@porch/client';
import { presentOf, type Participant } from '@porch/core';
import type { Rect } from '@porch/screen';
import { inputChannel, type InputAct, type InputMessage } from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { Lease } from '../consent/held.ts';
import type { HostAbility, Kit } from '../kit.ts';
import type { HandsPort } from '../ports/desktop-ports.ts';
import { partShown } from '../part-shown.ts';
import { whyWithout } from '../ports/host-ports.ts';

/** Lets a technician use mouse and keyboard. */
export const input: HostAbility = {
  name: 'input',
  whyNot: (_permission, ports) => whyWithout(ports, 'hands'),
  warn: ({ words }) => words.input.yourHandsWin,
  begin(kit) {
    const { hands } = kit.ports;
    if (!hands) return { close: () => undefined };
    const keeper = new LeaseKeeper(kit, hands);
    return {
      changed: () => keeper.check(),
      banner: (soFar) => {
        const mayWork = presentOf(kit.connection.state, 'desk').some((p) => kit.held.holds('control-input', p.signKey));
        const { seesAndUses, seesAndMayUse } = kit.words.input;
        const what = keeper.isOpen ? seesAndUses : seesAndMayUse;
        return mayWork ? { ...soFar, what: what({ part: partShown(kit.ports) }) } : soFar;
      },
      close: () => keeper.close(),
    };
  },
};

/** The person at the desktop always wins: after their own input the technician's waits this long. */
export const LOCAL_PAUSE_MS = 1_000;
/** Input aimed at a picture that had changed this long ago would hit something else. */
const STALE_PICTURE_MS = 2_000;
/** Input that waited this long, for the desktop or for us, is not done any longer: nobody expects it by then. */
const STALE_INPUT_MS = 2_000;
/** Typed before it is looked again whether what has the keyboard can be seen. */
const PIECE_CHARACTERS = 64;
const UNSEEN_KEYBOARD = 'what has the keyboard is not shown';
/** Moves that wait while a key is being typed; the newest counts. */
const MAX_WAITING_ACTS = 256;
/** How often it is looked whether a technician was heard lately. */
const CHECK_MS = 250;

/** One technician at the mouse and keyboard. */
interface InputLease {
  readonly id: string;
  /** What lets them be there. */
  readonly right: Lease;
  readonly technicianId: string;
  readonly seat: number;
  readonly startId: string;
  lastNumber: number;
  heardAtMs: number;
  clicks: number;
  keys: number;
  waiting: number;
}

/**
 * Opens a lease for a technician whose key holds the permission, and works the desktop with what comes in it: sealed by
 * that key alone, numbered without gaps, aimed at what is really shown. The end of a lease, for whatever reason, lets go
 * of every key and button.
 */
export class LeaseKeeper {
  readonly #kit: Kit;
  readonly #hands: HandsPort;
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<InputMessage>;
  readonly #offs: (() => void)[];
  #lease: InputLease | undefined;
  #pausedUntilMs = 0;
  #acts: Promise<void> = Promise.resolve();

  constructor(kit: Kit, hands: HandsPort) {
    this.#kit = kit;
    this.#hands = hands;
    this.#connection = kit.connection;
    this.#line = new SealedLine(kit.connection, inputChannel);
    this.#offs = [
      // The key decides, not the name: without a grant of our own for it, nothing is even opened.
      this.#line.listen(
        ({ from, message, frame }) => this.#take(from, message, frame.display, frame.displayGeneration),
        (from) => kit.held.holds('control-input', from.signKey),
      ),
      kit.connection.on('status', (status) => {
        if (status !== 'live') this.end('the line is gone');
      }),
      kit.ports.person.onLocalInput(() => this.#pause()),
      kit.time.every(CHECK_MS, () => this.check()),
    ];
  }

  get isOpen(): boolean {
    return this.#lease !== undefined;
  }

  /** Ends the lease if what it rests on is gone. Called at every change of what is allowed. */
  check(): void {
    const lease = this.#lease;
    if (!lease) return;
    const { state } = lease.right;
    if (state.name === 'over') this.end('it is not allowed any longer');
    else if (state.name === 'paused') this.end(state.why);
    else if (this.#technicianAt(lease.seat)?.startId !== lease.startId) this.end('their program started again');
    else if (this.#nowMs() - lease.heardAtMs > LEASE_SILENCE_MS) this.end('nothing was heard from the technician');
    else if (this.#kit.isAsking) this.#hands.releaseAll();
  }

  end(why: string): void {
    const lease = this.#lease;
    if (!lease) return;
    this.#lease = undefined;
    this.#hands.releaseAll();
    this.#tell(lease.seat, { type: 'leaseClosed', lease: lease.id, why });
    const { technicianId: participantId, clicks, keys } = lease;
    this.#kit.report((fact) => ({ type: 'stopControl', participantId, why, clicks, keys, fact }));
    this.#kit.changed();
  }

  close(): void {
    this.end('Doorstep closed');
    this.#offs.forEach((off) => off());
  }

  #nowMs(): number {
    return this.#kit.time.nowMs();
  }

  #technicianAt(seat: number): Participant | undefined {
    return presentOf(this.#connection.state, 'desk').find((p) => p.seat === seat);
  }

  #tell(seat: number, message: InputMessage): void {
    if (this.#technicianAt(seat)) this.#line.send(seat, message);
  }

  #take(from: Participant, message: InputMessage, display: number, generation: number): void {
    if (from.side !== 'desk' || from.isGone) return;
    if (message.type === 'openLease') this.#open(from);
    else if (this.#lease && 'lease' in message && message.lease === this.#lease.id && this.#lease.seat === from.seat) {
      this.#lease.heardAtMs = this.#nowMs();
      if (message.type === 'closeLease') this.end('the technician let go');
      else if (message.type === 'input') this.#takeInput(this.#lease, message, display, generation);
    }
  }

  #open(technician: Participant): void {
    this.end('another lease was opened');
    const right = this.#kit.held.during('control-input', technician.signKey);
    const lease: InputLease = {
      id: bytesToHex(this.#kit.random.bytes(16)),
      right,
      technicianId: technician.id,
      seat: technician.seat,
      startId: technician.startId,
      lastNumber: 0,
      heardAtMs: this.#nowMs(),
      clicks: 0,
      keys: 0,
      waiting: 0,
    };
    const { state } = right;
    if (state.name !== 'running') {
      const why = state.name === 'paused' ? state.why : 'it is not allowed';
      this.#tell(lease.seat, { type: 'leaseClosed', lease: lease.id, why });
      return;
    }
    this.#lease = lease;
    this.#kit.report((fact) => ({ type: 'startControl', participantId: technician.id, fact }));
    this.#tell(lease.seat, { type: 'leaseOpened', lease: lease.id });
    if (this.#nowMs() < this.#pausedUntilMs) this.#tellPaused(lease.seat);
    this.#kit.changed();
  }

  #takeInput(
    lease: InputLease,
    message: Extract<InputMessage, { type: 'input' }>,
    display: number,
    generation: number,
  ): void {
    if (message.number !== lease.lastNumber + 1) {
      this.end('messages are missing');
      return;
    }
    lease.lastNumber = message.number;
    const { act } = message;
    // Letting go is never dropped: what is down must come up, whatever else is true.
    if ('isDown' in act && !act.isDown) {
      const monitor = this.#kit.shared.aim(display)?.monitor;
      this.#enqueue(lease, 'x' in act && monitor ? within(act, monitor) : act, message.number);
      return;
    }
    const drop = (why: string) => this.#tell(lease.seat, { type: 'inputDropped', number: message.number, why });
    const nowMs = this.#nowMs();
    if (this.#kit.isAsking) return drop('a question is open on their screen');
    if (nowMs < this.#pausedUntilMs) return this.#tellPaused(lease.seat);
    const aim = this.#kit.shared.aim(display);
    if (!aim) return drop('that screen is not shown any longer');
    if (generation !== aim.generation) return drop('the screen has another size now');
    const replacedAtMs = aim.replacedAtMs(message.aimedAtUpdate);
    if (replacedAtMs !== undefined && nowMs - replacedAtMs > STALE_PICTURE_MS) return drop('your picture was too old');
    if (lease.waiting >= MAX_WAITING_ACTS) return drop('more input waits than can be done');
    this.#enqueue(lease, 'x' in act ? within(act, aim.monitor) : act, message.number);
  }

  #enqueue(lease: InputLease, act: InputAct, number: number): void {
    lease.waiting++;
    const arrivedAtMs = this.#nowMs();
    this.#acts = this.#acts
      .then(() => this.#perform(lease, act, number, arrivedAtMs))
      .catch((error: unknown) => this.#kit.log.error({ err: error }, 'input failed'))
      .finally(() => lease.waiting--);
  }

  /** Whether this lease may press anything in this very moment; asked by whatever writes to the desktop, as it writes. */
  #holds(lease: InputLease): boolean {
    return (
      this.#lease === lease && !this.#kit.isAsking && this.#nowMs() >= this.#pausedUntilMs && lease.right.isRunning
    );
  }

  async #perform(lease: InputLease, act: InputAct, number: number, arrivedAtMs: number): Promise<void> {
    const hands = this.#hands;
    const isRelease = 'isDown' in act && !act.isDown;
    // A desktop that stands still takes nothing; what piled up meanwhile would all be done at once when it wakes.
    await hands.answers();
    // Between coming in and its turn the person may have stopped it all; then everything was let go already.
    if (this.#lease !== lease) return;
    const isStale = this.#nowMs() - arrivedAtMs > STALE_INPUT_MS;
    const may = () => !isStale && this.#holds(lease);
    if (!may() && !isRelease) return;
    // What cannot be seen cannot be worked, either. Letting go happens where the pointer is.
    const whyNot = isRelease ? undefined : await this.#whyOutOfReach(act);
    if (whyNot) return this.#tell(lease.seat, { type: 'inputDropped', number, why: whyNot });
    const isThere = 'x' in act && this.#isInReach(act);
    if (isThere && may()) hands.movePointer(act.x, act.y);
    switch (act.act) {
      case 'move':
        break;
      case 'button':
        if (act.isDown) lease.clicks++;
        hands.button(act.button, act.isDown);
        break;
      case 'wheel':
        hands.wheel(act.stepsX, act.stepsY);
        break;
      case 'key':
        if (act.isDown) lease.keys++;
        await hands.key(act.key, act.isDown, may);
        break;
      case 'text':
        if (!(await this.#type(lease, act.text, may)))
          this.#tell(lease.seat, { type: 'inputDropped', number, why: UNSEEN_KEYBOARD });
        break;
    }
  }

  /** In pieces: what comes up meanwhile and takes the keyboard may be something that cannot be seen. False: it did. */
  async #type(lease: InputLease, text: string, may: () => boolean): Promise<boolean> {
    const letters = [...text];
    for (let at = 0; at < letters.length && may(); at += PIECE_CHARACTERS) {
      if (at > 0 && (await this.#kit.ports.hiding?.isKeyboardInReach()) === false) return false;
      lease.keys += await this.#hands.type(letters.slice(at, at + PIECE_CHARACTERS).join(''), may);
    }
    return true;
  }

  #isInReach = ({ x, y }: { x: number; y: number }): boolean => this.#kit.ports.hiding?.isInReach(x, y) ?? true;

  /** Why this is not done where it is aimed at; moves are just not made. */
  async #whyOutOfReach(act: InputAct): Promise<string | undefined> {
    if (act.act === 'move') return undefined;
    if ('x' in act) return this.#isInReach(act) ? undefined : 'that part of the screen is not shown';
    const isSeen = (await this.#kit.ports.hiding?.isKeyboardInReach()) ?? true;
    return isSeen ? undefined : UNSEEN_KEYBOARD;
  }

  #tellPaused(seat: number): void {
    this.#tell(seat, {
      type: 'inputPaused',
      forMs: Math.ceil(Math.max(0, this.#pausedUntilMs - this.#nowMs())),
      why: 'they are using their own mouse or keyboard',
    });
  }

  #pause(): void {
    // Answering a question is not taking over; nothing is injected meanwhile anyway.
    if (this.#kit.isAsking) return;
    const wasPaused = this.#nowMs() < this.#pausedUntilMs;
    this.#pausedUntilMs = this.#nowMs() + LOCAL_PAUSE_MS;
    if (!this.#lease) return;
    if (!wasPaused) {
      this.#hands.releaseAll();
      this.#tellPaused(this.#lease.seat);
    }
  }
}

/** From pixels of a display to pixels of the desktop, never beside it. */
function within<A extends { x: number; y: number }>(act: A, monitor: Rect): A {
  const x = monitor.x + Math.min(act.x, monitor.width - 1);
  const y = monitor.y + Math.min(act.y, monitor.height - 1);
  return { ...act, x, y };
}
