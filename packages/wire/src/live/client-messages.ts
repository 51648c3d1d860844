import { Cannot, MOST_NAMES, SessionCommand } from '@porch/core';
import { z } from 'zod';
import { isOfLaterType, typesOf } from './later.ts';
import { CustomerStep, hex, id } from './live-messages.ts';

export const ClientMessage = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('hello'),
    version: z.int(),
    pass: z.string().max(200),
    signKey: hex.length(64),
    agreeKey: hex.length(64),
    startId: hex.length(32),
    /** Of `helloBytes`, by `signKey`: whoever only copied public keys cannot make it. */
    signature: hex.length(128),
    /** The last entry this program has, 0 for none, and its hash: the service goes on after it. */
    lastSeq: z.int().min(0),
    lastHash: hex.max(64),
    computer: z.string().max(120).optional(),
    /** What this program, as the consent holder, cannot do. */
    cannot: Cannot.optional(),
    /** What it can do, as the consent holder. What is not named is not possible there. */
    can: z.array(z.string().min(1).max(40)).max(MOST_NAMES).optional(),
    /** What this program knows of each ability. */
    abilities: z.record(z.string().min(1).max(40), z.int()).optional(),
  }),
  z.object({ type: z.literal('command'), id, command: SessionCommand }),
  z.object({ type: z.literal('aside'), id, text: z.string().trim().min(1).max(4000) }),
  z.object({ type: z.literal('step'), step: CustomerStep }),
  /** A display of whoever sits at `from`; without it, of whoever holds the consent, also when that changes. */
  z.object({
    type: z.literal('watch'),
    from: z.int().min(1).max(65_535).optional(),
    display: z.int().min(0).max(255),
    isOn: z.boolean(),
  }),
  z.object({ type: z.literal('beat'), sentAtMs: z.number() }),
]);
export type ClientMessage = z.infer<typeof ClientMessage>;

/** A hello of whatever age: enough to see that it is of another one. */
export const OtherHello = z.object({ type: z.literal('hello'), version: z.int() });

/** What can be told of a message that is not one we know: who sent it still has to hear which one it was. */
export const RefusableMessage = z.object({ type: z.enum(['command', 'aside']), id });

const clientTypes = typesOf(ClientMessage);
export const isLaterClientMessage = (value: unknown): boolean => isOfLaterType(value, clientTypes);
