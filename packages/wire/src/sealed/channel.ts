import type { Permission } from '@porch/core';
import type { z } from 'zod';
import { AppError } from '../errors.ts';

/** One ability's sealed messages between a technician and the customer's side, which the relay passes on unread. */
export interface SealedChannel<Name extends string = string, M = unknown> {
  /** Part of what its keys are derived from. */
  readonly name: Name;
  /** In the header of every message. Never given twice. */
  readonly id: number;
  /** Which queue it waits in: bulk goes after everything else, and what is fresh goes at once or not at all. */
  readonly line: 'interactive' | 'fresh' | 'bulk';
  readonly message: z.ZodType<M>;
  /** Any of these lets a message pass in that direction; an empty list lets everything pass. */
  readonly needs: { readonly toCustomer: readonly Permission[]; readonly toDesk: readonly Permission[] };
  /** Passes before anything is allowed, too, while a technician stands at the door of a device. */
  readonly isForTheDoor?: true;
  /** Only a program on the customer's computer can have it. */
  readonly isForDoorstep?: true;
  /** Passes between two of the desk, too, when both may. */
  readonly isAmongDesk?: true;
  /** Messages that are not words: their plain bytes begin with another tag. */
  readonly hasChunks?: true;
}

export const defineChannel = <const Name extends string, M>(channel: SealedChannel<Name, M>): SealedChannel<Name, M> =>
  channel;

/** The first byte of what is sealed: words, or a piece of something larger. */
export const WORDS_TAG = 0;
export const CHUNK_TAG = 1;

export const encodeWords = (message: unknown): Uint8Array => encodeJson(JSON.stringify(message));

/** The same of a message that is JSON already. */
export function encodeJson(json: string): Uint8Array {
  const text = new TextEncoder().encode(json);
  const bytes = new Uint8Array(text.length + 1);
  bytes[0] = WORDS_TAG;
  bytes.set(text, 1);
  return bytes;
}

/** Throws MESSAGE_INVALID for what is no message of this channel. */
export function decodeWords<M>({ message }: Pick<SealedChannel<string, M>, 'message'>, plain: Uint8Array): M {
  if (plain[0] !== WORDS_TAG) throw new AppError('MESSAGE_INVALID');
  try {
    return message.parse(JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(plain.subarray(1))));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}
