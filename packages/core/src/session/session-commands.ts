import { z } from 'zod';
import { Language } from '../language.ts';
import { MAX_ASKED_TOGETHER, Permission } from '../permission/permission.ts';
import { Aim, CallAnswer, EndReason, Outcome, PageSource, TryAnswer, WhoseComputer } from './session-events.ts';

const id = z.uuid();
/** A fact's number in Doorstep's journal. Facts are delivered when the line is back and are never refused. */
const fact = z.int().min(1).optional();
const why = z.string().max(60);

export const MAX_CHAT_CHARACTERS = 4000;
export const MAX_NOTE_CHARACTERS = 8000;

/** What participants may send over the live connection. Who may send which is decided in `decide`. */
export const SessionCommand = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('introduceCustomer'),
    name: z.string().trim().min(1).max(120),
    address: z.string().trim().max(200),
    language: Language.optional(),
    computer: WhoseComputer.optional(),
    isMinor: z.boolean().optional(),
  }),
  z.strictObject({ type: z.literal('chooseAim'), aim: Aim }),
  /** Whether another Doorstep may take the place of the one that is there. */
  z.strictObject({ type: z.literal('answerChangeOver'), participantId: id, isYes: z.boolean() }),
  z.strictObject({ type: z.literal('chooseSource'), what: PageSource }),
  z.strictObject({ type: z.literal('setPrivate'), isOn: z.boolean(), fact }),
  z.strictObject({ type: z.literal('setAway'), isAway: z.boolean(), fact }),
  z.strictObject({ type: z.literal('answerCall'), answer: CallAnswer }),
  /** The page can show something itself, as long as Doorstep is not there. */
  z.strictObject({ type: z.literal('offerOwnPicture') }),
  z.strictObject({ type: z.literal('acceptSession'), noticeVersion: z.string().max(20) }),
  z.strictObject({
    type: z.literal('askPermissions'),
    askId: id,
    permissions: z.array(Permission).min(1).max(MAX_ASKED_TOGETHER),
  }),
  z.strictObject({ type: z.literal('takeBackAsk'), askId: id }),
  z.strictObject({
    type: z.literal('grantAsk'),
    askId: id,
    isStanding: z.boolean().optional(),
    grants: z
      .array(z.strictObject({ statement: z.string().max(2000), signature: z.string().max(200) }))
      .min(1)
      .max(MAX_ASKED_TOGETHER),
  }),
  /** Doorstep's word that a visit under its standing consent may begin. */
  z.strictObject({
    type: z.literal('beginVisit'),
    participantId: id,
    wasAsked: z.boolean(),
    noticeVersion: z.string().max(20),
  }),
  z.strictObject({ type: z.literal('refuseAsk'), askId: id, fact }),
  z.strictObject({ type: z.literal('withdrawPermission'), participantId: id, permission: Permission, why, fact }),
  z.strictObject({ type: z.literal('startControl'), participantId: id, fact }),
  z.strictObject({
    type: z.literal('stopControl'),
    participantId: id,
    why,
    clicks: z.int().min(0),
    keys: z.int().min(0),
    fact,
  }),
  z.strictObject({ type: z.literal('loseScreen'), why, fact }),
  /** The person at the desktop compared the verification words with what the technician read to them. */
  z.strictObject({ type: z.literal('compareWords'), participantId: id, isSame: z.boolean(), fact }),
  z.strictObject({
    type: z.literal('sendChat'),
    messageId: id,
    text: z.string().trim().min(1).max(MAX_CHAT_CHARACTERS),
  }),
  z.strictObject({
    type: z.literal('offerFile'),
    fileId: id,
    toId: id,
    name: z.string().min(1).max(255),
    sizeBytes: z.int().min(0),
    sha256: z.string().regex(/^[0-9a-f]{64}$/),
  }),
  z.strictObject({ type: z.literal('acceptFile'), fileId: id }),
  z.strictObject({
    type: z.literal('closeFile'),
    fileId: id,
    how: z.enum(['refused', 'cancelled', 'failed']),
    why: z.string().max(80),
  }),
  z.strictObject({ type: z.literal('confirmFile'), fileId: id, sha256: z.string().regex(/^[0-9a-f]{64}$/) }),
  z.strictObject({
    type: z.literal('requestHandover'),
    handoverId: id,
    toTechnicianId: z.string().max(64),
    remark: z.string().max(2000),
  }),
  z.strictObject({ type: z.literal('takeBackHandover'), handoverId: id }),
  z.strictObject({ type: z.literal('askToTry') }),
  z.strictObject({ type: z.literal('answerTry'), answer: TryAnswer }),
  z.strictObject({ type: z.literal('endSession'), reason: EndReason, why: z.string().max(80), fact }),
  z.strictObject({ type: z.literal('leaveSession'), reason: why, fact }),
  z.strictObject({
    type: z.literal('logOutcome'),
    outcome: Outcome,
    note: z.string().max(MAX_NOTE_CHARACTERS),
    minutes: z.int().min(0).max(10_000),
  }),
]);
export type SessionCommand = z.infer<typeof SessionCommand>;
export type CommandOf<T extends SessionCommand['type']> = Extract<SessionCommand, { type: T }>;
