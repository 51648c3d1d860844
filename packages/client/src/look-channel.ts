import { decodeLookMessage, encodeSealedJson, type LookMessage } from '@porch/wire';
import type { LiveConnection } from './live-connection.ts';
import { SealedChannels } from './sealed-channels.ts';
import { unlessUnreadable } from './unless-unreadable.ts';

/** Words about looking, sealed between two participants: keys, challenges, wishes. */
export class LookChannel {
  readonly #connection: LiveConnection;
  readonly #channels: SealedChannels;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#channels = new SealedChannels(connection, 'look');
  }

  /** False when the line is gone. */
  send(seat: number, message: LookMessage): boolean {
    const channel = this.#channels.toSeat(seat);
    return channel !== undefined && this.#connection.sendFrame(channel.seal(encodeSealedJson(message)));
  }

  /** Undefined for what that participant did not seal, or did not seal for us. */
  open(seat: number, bytes: Uint8Array): LookMessage | undefined {
    const channel = this.#channels.toSeat(seat);
    return channel && unlessUnreadable(() => decodeLookMessage(channel.open(bytes).plain));
  }
}
