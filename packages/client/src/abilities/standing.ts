import { consentHolderOf } from '@porch/core';
import {
  finishAsA,
  freshScalar,
  isSameProof,
  scalarOfSecret,
  secretContext,
  secretSides,
  shareOfA,
  standingChannel,
  type DoorMessage,
} from '@porch/wire';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

/** Where a visit stands for the technician who came. */
export type SecretState =
  | { readonly name: 'notNeeded' }
  /** The device has not said yet what it wants. */
  | { readonly name: 'unknown' }
  | { readonly name: 'wanted'; readonly triesLeft: number }
  | { readonly name: 'checking' }
  | { readonly name: 'wrong'; readonly triesLeft: number }
  /** Right; what happens next is decided at the device. */
  | { readonly name: 'right' }
  /** Whoever sits there is being asked instead. */
  | { readonly name: 'asked' }
  /** What answered did not know the secret itself: it is not the device that made it. */
  | { readonly name: 'impostor' };

/** How often a device that has not said yet what it wants is asked: one that was still opening its door heard no knock. */
const KNOCK_AGAIN_MS = 1_000;

/**
 * The technician at the door of a device: proves the second secret, by the exchange that `second-secret.ts` draws. The
 * words stay here.
 */
export class TechnicianDoor {
  readonly listeners = new Listeners<{ secret: SecretState }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<DoorMessage>;
  readonly #offs: (() => void)[];
  #state: SecretState = { name: 'notNeeded' };
  #salt: string | undefined;
  #triesLeft = 0;
  #exchange: { w: bigint; x: bigint; share: string } | undefined;
  #provenHolder: string | undefined;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, standingChannel);
    this.#offs = [
      this.#line.listen(
        ({ from, message }) => this.#take(message, from),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('caughtUp', () => {
        if (this.#holder && this.#state.name !== 'right') this.knock();
      }),
      connection.on('entry', ({ event }) => {
        if (event.type === 'participantJoined' && event.role === 'doorstep') this.knock();
      }),
      connection.clock.every(KNOCK_AGAIN_MS, () => {
        if (this.#state.name === 'unknown') this.knock();
      }),
    ];
  }

  get state(): SecretState {
    return this.#state;
  }

  /** A holder is there, or another one than before: asks what it wants. */
  knock(): void {
    if (this.#connection.state.deviceId === undefined || this.#connection.state.hasAccepted) return;
    this.#exchange = undefined;
    this.#set({ name: 'unknown' });
    this.#tell({ type: 'atTheDoor' });
  }

  /** Proves that we know these words. Takes as long as the words' stretching takes, some tenths of a second. */
  async prove(words: string): Promise<void> {
    if (this.#salt === undefined) return;
    this.#set({ name: 'checking' });
    const w = BigInt(`0x${await scalarOfSecret(words, this.#salt)}`);
    const x = freshScalar(this.#connection.random.bytes(40));
    this.#exchange = { w, x, share: shareOfA(w, x) };
    this.#tell({ type: 'secretBegin', share: this.#exchange.share });
  }

  /** Has whoever sits at the device asked, as any customer is. */
  askWhoIsThere(): void {
    this.#set({ name: 'asked' });
    this.#tell({ type: 'askWhoIsThere' });
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.listeners.clear();
  }

  get #holder() {
    return consentHolderOf(this.#connection.state);
  }

  #tell(message: DoorMessage): void {
    const holder = this.#holder;
    if (holder) this.#line.send(holder.seat, message);
  }

  #take(message: DoorMessage, holder: { readonly signKey: string; readonly agreeKey: string }): void {
    if (message.type === 'secretWanted') {
      this.#salt = message.salt;
      this.#triesLeft = message.triesLeft;
      if (this.#state.name !== 'asked') this.#set({ name: 'wanted', triesLeft: message.triesLeft });
    } else if (message.type === 'secretShare') this.#finish(message, holder);
    else if (message.type === 'secretResult')
      this.#set(
        message.isRight
          ? { name: this.#provenHolder === holder.signKey ? 'right' : 'impostor' }
          : { name: 'wrong', triesLeft: message.triesLeft },
      );
  }

  #finish(message: Extract<DoorMessage, { type: 'secretShare' }>, holder: { signKey: string; agreeKey: string }): void {
    const exchange = this.#exchange;
    this.#exchange = undefined;
    const { keys, sessionId, state } = this.#connection;
    if (!exchange || state.deviceId === undefined) return;
    const result = finishAsA(
      {
        sides: secretSides(state.deviceId),
        w: exchange.w,
        shareA: exchange.share,
        shareB: message.share,
        aad: secretContext(sessionId, keys, holder),
      },
      exchange.x,
    );
    if (!result) return;
    // What does not prove that it knows the words gets no proof of ours to try others on: it ends here. Either they were
    // mistyped, or this is not the device that made them; the device has counted the try before it answered.
    if (!isSameProof(result.proofOfB, message.proof)) {
      this.#set({ name: 'wrong', triesLeft: Math.max(0, this.#triesLeft - 1) });
      this.#triesLeft = Math.max(0, this.#triesLeft - 1);
      return;
    }
    this.#provenHolder = holder.signKey;
    this.#tell({ type: 'secretProof', proof: result.proofOfA });
  }

  #set(state: SecretState): void {
    this.#state = state;
    this.listeners.emit('secret', state);
  }
}
