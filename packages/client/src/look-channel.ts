import { decodeLookMessage, encodeSealedJson, PairwiseChannel, type LookMessage } from '@porch/wire';
import type { LiveConnection } from './live-connection.ts';
import { unlessUnreadable } from './unless-unreadable.ts';

/** Words about looking, sealed between two participants: keys, challenges, wishes. */
export class LookChannel {
  readonly #connection: LiveConnection;
  readonly #channels = new Map<string, PairwiseChannel>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
  }

  /** False when the line is gone. */
  send(seat: number, message: LookMessage): boolean {
    const channel = this.#channelTo(seat);
    return channel !== undefined && this.#connection.sendFrame(channel.seal(encodeSealedJson(message)));
  }

  /** Undefined for what that participant did not seal, or did not seal for us. */
  open(seat: number, bytes: Uint8Array): LookMessage | undefined {
    const channel = this.#channelTo(seat);
    return channel && unlessUnreadable(() => decodeLookMessage(channel.open(bytes).plain));
  }

  #channelTo(seat: number): PairwiseChannel | undefined {
    const { state, keys, seat: mySeat, sessionId } = this.#connection;
    const other = Object.values(state.participants).find((p) => p.seat === seat);
    if (!other) return undefined;
    const known = this.#channels.get(other.agreeKey);
    if (known) return known;
    const channel = new PairwiseChannel({
      sessionId,
      mine: keys,
      mySeat,
      theirAgreeKey: other.agreeKey,
      theirSeat: seat,
      channel: 'look',
    });
    this.#channels.set(other.agreeKey, channel);
    return channel;
  }
}
