import { consentHolderOf } from '@porch/core';
import {
  checkWordsChannel,
  commitmentOf,
  MAX_WORD_TRIES,
  startOf,
  verificationWords,
  type CheckWordsMessage,
  type WordExchange,
} from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

/** The technician's side of the check words: makes them with the holder, and has the customer asked for theirs. */
export class TechnicianWords {
  readonly listeners = new Listeners<{ words: readonly string[] }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<CheckWordsMessage>;
  readonly #offs: (() => void)[];
  #holderStart = '';
  /** The one exchange with the holder that is there: its commitment, and our nonce, made for it alone. */
  #exchange: { readonly commitment: string; readonly nonce: string } | undefined;
  #revealed: WordExchange | undefined;
  /** How many holders words were made with. More than one: a program at the customer's side began anew, or was changed. */
  tries = 0;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, checkWordsChannel);
    this.#offs = [
      this.#line.listen(
        ({ message }) => this.#take(message),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('entry', ({ event }) => {
        this.#followHolder();
        // They may say another language than we thought.
        if (event.type === 'customerIntroduced' || event.type === 'customerAccepted')
          this.listeners.emit('words', this.words);
      }),
    ];
  }

  /** Those to compare, in the customer's language, since it is they who hear them; none before the exchange. */
  get words(): readonly string[] {
    return this.#revealed ? verificationWords(this.#revealed, this.#connection.state.language) : [];
  }

  /** Asks the customer, at their own computer, whether they hear the same words. */
  askCompare(): void {
    this.#tell({ type: 'askCompare' });
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.listeners.clear();
  }

  #tell(message: CheckWordsMessage): void {
    const holder = consentHolderOf(this.#connection.state);
    if (holder) this.#line.send(holder.seat, message);
  }

  /** Words are of one start of one program: another one's are others. */
  #followHolder(): void {
    const holder = consentHolderOf(this.#connection.state);
    if (!holder || startOf(holder) === this.#holderStart) return;
    this.#holderStart = startOf(holder);
    this.#exchange = undefined;
    if (!this.#revealed) return;
    this.#revealed = undefined;
    this.listeners.emit('words', this.words);
  }

  #take(message: CheckWordsMessage): void {
    this.#followHolder();
    if (message.type === 'commit') this.#answerCommitment(message.commitment);
    else if (message.type === 'reveal') this.#reveal(message.nonce);
  }

  /**
   * The first commitment of a holder counts: one that could change its mind could search for words that fit. Our nonce is
   * fresh for each, so that what one holder learned of us helps no other.
   */
  #answerCommitment(commitment: string): void {
    if (!this.#exchange) {
      if (this.tries >= MAX_WORD_TRIES) return;
      this.tries++;
      this.#exchange = { commitment, nonce: bytesToHex(this.#connection.random.bytes(32)) };
    }
    if (this.#exchange.commitment === commitment) this.#tell({ type: 'nonce', nonce: this.#exchange.nonce });
  }

  #reveal(nonce: string): void {
    const exchange = this.#exchange;
    const holder = consentHolderOf(this.#connection.state);
    if (!exchange || !holder || commitmentOf(holder, nonce) !== exchange.commitment) return;
    const { keys, participantId, sessionId } = this.#connection;
    this.#revealed = {
      sessionId,
      holder: { id: holder.id, signKey: holder.signKey, agreeKey: holder.agreeKey },
      technician: { id: participantId, signKey: keys.signKey, agreeKey: keys.agreeKey },
      holderNonce: nonce,
      technicianNonce: exchange.nonce,
    };
    this.listeners.emit('words', this.words);
  }
}
