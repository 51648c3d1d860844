import { z } from 'zod';
import { isErrorCode, type ErrorCode } from '../errors.ts';
import { isOfLaterType, typesOf } from './later.ts';

/*
 * Fields that are not known are passed over, and so is a message of a type that is not: a later release may say more. What
 * is known keeps its meaning.
 */

/** Raised when either side could misread the other. Met in `hello`; another one is refused with PROTOCOL_VERSION. */
export const PROTOCOL_VERSION = 4;

/** How often each side says that it is there, and after how long a silence the other is given up. */
export const HEARTBEAT_MS = 2_000;
export const SILENCE_MS = 7_000;
/** How long a connection may take to say hello. */
export const HELLO_MS = 5_000;

export const id = z.uuid();
export const hex = z.string().regex(/^[0-9a-f]+$/);

/** Where the customer is before there is a picture. Not an event: it is shown and forgotten. */
export const CustomerStep = z.enum([
  'page-open',
  'typing-code',
  'reading-who-asks',
  'getting-doorstep',
  'prompt-open',
  'looking-away',
  'private',
  'ready',
]);
export type CustomerStep = z.infer<typeof CustomerStep>;

/** One row of the ledger as it is stored: exact bytes, in base64. Erased rows come without salt and body. */
export const LedgerRowMessage = z.object({
  seq: z.int().min(1),
  header: z.string(),
  salt: z.string().optional(),
  body: z.string().optional(),
  bodyHash: hex.length(64),
  hash: hex.length(64),
});
export type LedgerRowMessage = z.infer<typeof LedgerRowMessage>;

export const AsideMessage = z.object({
  seq: z.int(),
  atMs: z.number(),
  technicianId: z.string(),
  name: z.string(),
  text: z.string(),
});
export type AsideMessage = z.infer<typeof AsideMessage>;

export const PresenceRow = z.object({
  participantId: id,
  isConnected: z.boolean(),
  step: CustomerStep.optional(),
});

export type PresenceRow = z.infer<typeof PresenceRow>;

/** Somebody who may look, and at which displays of the one who is told. */
export const ViewerRow = z.object({ seat: z.int(), displays: z.array(z.int().min(0).max(255)) });
export type ViewerRow = z.infer<typeof ViewerRow>;

const errorCode = z.custom<ErrorCode>(isErrorCode);

/**
 * Commands that a participant may have on their way without an answer. The service says it in `welcome`; who keeps to it
 * is never cut off, however much they have to say.
 */
export const COMMAND_WINDOW = 16;

export const ServerMessage = z.discriminatedUnion('type', [
  /** The first word on every socket: what `hello` is to sign. */
  z.object({ type: z.literal('challenge'), nonce: hex.length(64) }),
  z.object({
    type: z.literal('welcome'),
    version: z.int(),
    sessionId: id,
    participantId: id,
    seat: z.int(),
    /** Grows when another process becomes the owner of this session; a lower one than known is refused. */
    ownerEpoch: z.int(),
    nowMs: z.number(),
    commandWindow: z.int().min(1),
  }),
  z.object({ type: z.literal('entries'), rows: z.array(LedgerRowMessage) }),
  z.object({ type: z.literal('asides'), asides: z.array(AsideMessage) }),
  /** Everything up to here has been sent: what follows is live. */
  z.object({ type: z.literal('caughtUp') }),
  z.object({ type: z.literal('accepted'), id }),
  z.object({ type: z.literal('refused'), id, code: errorCode, message: z.string() }),
  z.object({ type: z.literal('presence'), participants: z.array(PresenceRow) }),
  z.object({ type: z.literal('viewers'), viewers: z.array(ViewerRow) }),
  z.object({ type: z.literal('beat'), sentAtMs: z.number() }),
]);
export type ServerMessage = z.infer<typeof ServerMessage>;

const serverTypes = typesOf(ServerMessage);
export const isLaterServerMessage = (value: unknown): boolean => isOfLaterType(value, serverTypes);
