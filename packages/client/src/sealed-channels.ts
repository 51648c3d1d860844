import { participantAt, type Participant } from '@porch/core';
import { PairwiseChannel, type PairwiseSetup } from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';

type Wanted = Pick<LiveConnection, 'state' | 'sessionId' | 'keys' | 'seat'> & Partial<Pick<LiveConnection, 'ciphers'>>;

/**
 * The sealed channels of one kind to everybody in a session, one for each start of their program. Those of earlier starts
 * are kept: whoever claims that an older start is back meets the counters where they were, so no nonce is used twice.
 */
export class SealedChannels {
  readonly #connection: Wanted;
  readonly #channel: PairwiseSetup['channel'];
  readonly #known = new Map<string, PairwiseChannel>();

  constructor(connection: Wanted, channel: PairwiseSetup['channel']) {
    this.#connection = connection;
    this.#channel = channel;
  }

  to({ agreeKey, startId, seat }: Pick<Participant, 'agreeKey' | 'startId' | 'seat'>): PairwiseChannel {
    const name = `${agreeKey}.${startId}`;
    const known = this.#known.get(name);
    if (known) return known;
    const { sessionId, keys, seat: mySeat, ciphers } = this.#connection;
    const made = new PairwiseChannel({
      sessionId,
      mine: keys,
      mySeat,
      theirAgreeKey: agreeKey,
      theirStartId: startId,
      theirSeat: seat,
      channel: this.#channel,
      ...(ciphers ? { ciphers } : {}),
    });
    this.#known.set(name, made);
    return made;
  }

  /** Undefined when nobody ever had this seat. */
  toSeat(seat: number): PairwiseChannel | undefined {
    const other = participantAt(this.#connection.state, seat);
    return other && this.to(other);
  }
}
