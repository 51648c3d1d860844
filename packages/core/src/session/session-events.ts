import { z } from 'zod';
import { InvitationWay } from '../invitation/invitation.ts';
import { Language } from '../language.ts';
import { Permission, WhyNot } from '../permission/permission.ts';

/*
 * Everything that changes a session. What stands in `personal` is what a person may have erased: it is stored and
 * hashed apart, and no state that a decision depends on is made from it.
 */
const id = z.uuid();
const who = z.string().min(1).max(64);
const key = z.string().min(40).max(64);

export const Role = z.enum(['technician', 'customer-page', 'doorstep']);
export type Role = z.infer<typeof Role>;
export const isCustomerRole = (role: Role): boolean => role !== 'technician';

export const Outcome = z.enum([
  'resolved',
  'worked-around',
  'escalated',
  'follow-up',
  'not-resolved',
  'customer-left',
  'suspected-fraud',
]);
export type Outcome = z.infer<typeof Outcome>;

/** What of the customer's own stands behind the session: decides whether they are asked who called whom. */
export const Behind = z.enum(['ticket', 'queue-entry', 'device', 'nothing']);
export type Behind = z.infer<typeof Behind>;

/** What the session is meant for: only looking, from the customer's browser, or working, with Doorstep. */
export const Aim = z.enum(['look', 'work']);
export type Aim = z.infer<typeof Aim>;
/** Whose computer the customer sits at, as they say. */
export const WhoseComputer = z.enum(['own', 'works', 'shared', 'others']);
export type WhoseComputer = z.infer<typeof WhoseComputer>;
/** What a customer's page shows. */
export const PageSource = z.enum(['browser', 'window', 'monitor', 'camera', 'other']);
export type PageSource = z.infer<typeof PageSource>;

export const TryAnswer = z.enum(['works', 'does-not', 'cannot-tell']);
export const CallAnswer = z.enum(['i-called', 'they-called']);
export const EndReason = z.enum(['technician', 'customer', 'stop', 'fraud']);
/**
 * What a customer's participant showed of who they are, bound to them alone: that they read the ticket, that the directory
 * knows them, that they are who asked for help in the queue, or that their own page started them.
 */
export const Proof = z.enum(['ticket', 'directory', 'request', 'page']);
export type Proof = z.infer<typeof Proof>;

/** Why somebody is out whose place another program has: they may do nothing more, not even report. */
export const REPLACED = 'started again elsewhere';
export const CHANGED_OVER = 'another computer took its place';

const common = { by: who };
const event = <T extends string, S extends z.ZodRawShape>(type: T, shape: S) =>
  z.strictObject({ type: z.literal(type), ...common, ...shape });

export const SessionEvent = z.discriminatedUnion('type', [
  event('sessionPrepared', {
    technicianId: who,
    behind: Behind,
    /** What the customer is spoken to in, as far as it is known. */
    language: Language.optional(),
    /** Who stands behind was known to the desk's directory, or signed in at the ticket system. */
    isConfirmed: z.boolean().optional(),
    ticketRef: z.string().max(40).optional(),
    /** The device that is visited under its standing consent, or with a yes of whoever sits there. */
    deviceId: id.optional(),
    personal: z
      .strictObject({
        technicianName: z.string(),
        purpose: z.string(),
        /** As the customer reads it, where that differs; empty where there is nothing for them to read. */
        customerPurpose: z.string().optional(),
        asset: z.string().optional(),
        customerName: z.string().optional(),
        customerAddress: z.string().optional(),
        /** What was said in the queue, before there was a session. */
        saidBefore: z.array(z.strictObject({ atMs: z.number(), name: z.string(), text: z.string() })).optional(),
      })
      .optional(),
  }),
  /** Whom the session is for. Apart from its beginning, since whoever holds only a code or a link may not read it. */
  event('customerExpected', {
    personal: z
      .strictObject({
        customerName: z.string().optional(),
        customerAddress: z.string().optional(),
        /** What was said in the queue, before there was a session. */
        saidBefore: z.array(z.strictObject({ atMs: z.number(), name: z.string(), text: z.string() })).optional(),
      })
      .optional(),
  }),
  /** A session without a ticket got one. */
  event('ticketAttached', { ticketRef: z.string().max(40) }),
  event('codeIssued', { codeId: id, expiresAtMs: z.number() }),
  event('codeWithdrawn', { codeId: id }),
  event('invitationIssued', { invitationId: id, way: InvitationWay }),
  event('invitationFailed', {
    invitationId: id,
    way: InvitationWay,
    personal: z.strictObject({ why: z.string().max(300) }).optional(),
  }),
  event('invitationWithdrawn', { invitationId: id, way: InvitationWay }),
  event('participantJoined', {
    participantId: id,
    seat: z.int().min(1).max(65_535),
    role: Role,
    technicianId: who.optional(),
    signKey: key,
    agreeKey: key,
    startId: z.string().max(64).optional(),
    proof: Proof.optional(),
    way: z.string().max(40),
    /** What the program says it cannot do. Missing: it said nothing, and can what the first release could. */
    cannot: z.partialRecord(Permission, WhyNot).optional(),
    personal: z.strictObject({ name: z.string(), computer: z.string().optional() }).optional(),
  }),
  /** A participant's program began anew with the pairs that it had kept: every key that others derive is another. */
  event('programStarted', { participantId: id, startId: z.string().max(64) }),
  /** Another Doorstep came while one is there: the technician decides which of the two shows and allows. */
  event('changeOverWanted', { participantId: id }),
  event('changeOverAnswered', { participantId: id, isYes: z.boolean() }),
  event('participantLeft', { participantId: id, reason: z.string().max(60) }),
  event('customerIntroduced', {
    identity: z.enum(['said-so-themselves', 'confirmed-by-ticket', 'confirmed-by-directory']),
    language: Language.optional(),
    computer: WhoseComputer.optional(),
    /** Under age, with a guardian beside them. */
    isMinor: z.boolean().optional(),
    personal: z.strictObject({ name: z.string(), address: z.string() }).optional(),
  }),
  event('aimChosen', { aim: Aim }),
  /** What the page shows from now on. */
  event('sourceChosen', { what: PageSource }),
  /** The customer types something private: picture and input pause until they say that it is over. */
  event('privateMoment', { isOn: z.boolean(), fact: z.int().optional() }),
  /** Nobody has been at the computer for a while, or somebody is again. */
  event('customerAway', { isAway: z.boolean(), fact: z.int().optional() }),
  event('callAnswered', { answer: CallAnswer }),
  /** The page, and no program on the computer, shows a picture and holds the consent to it. */
  event('ownPictureOffered', {}),
  event('customerAccepted', { noticeVersion: z.string().max(20) }),
  /** Doorstep let a visit begin under its standing consent: the second secret was right, and it was welcome where it must be. */
  event('visitBegan', { participantId: id, wasAsked: z.boolean() }),
  event('permissionsAsked', {
    askId: id,
    participantId: id,
    permissions: z.array(Permission).min(1),
    expiresAtMs: z.number(),
  }),
  event('askClosed', { askId: id, how: z.enum(['refused', 'lapsed', 'taken-back']) }),
  event('permissionGranted', {
    askId: id,
    participantId: id,
    permission: Permission,
    grantNumber: z.int().min(1),
    endsAtMs: z.number(),
    grant: z.string().max(2000),
    signature: z.string().max(200),
    /** Granted by a standing consent, and not by a yes just now. */
    isStanding: z.boolean().optional(),
  }),
  event('permissionWithdrawn', {
    participantId: id,
    permission: Permission,
    why: z.string().max(60),
    fact: z.int().optional(),
  }),
  event('controlStarted', { participantId: id, fact: z.int().optional() }),
  event('controlStopped', {
    participantId: id,
    why: z.string().max(60),
    clicks: z.int().min(0),
    keys: z.int().min(0),
    fact: z.int().optional(),
  }),
  event('screenLost', { why: z.string().max(60), fact: z.int().optional() }),
  event('wordsCompared', { participantId: id, isSame: z.boolean(), fact: z.int().optional() }),
  event('chatSent', { messageId: id, personal: z.strictObject({ text: z.string().max(4000) }).optional() }),
  event('fileOffered', {
    fileId: id,
    fromId: id,
    toId: id,
    sizeBytes: z.int().min(0),
    sha256: z.string().length(64),
    personal: z.strictObject({ name: z.string().max(255) }).optional(),
  }),
  event('fileAccepted', { fileId: id }),
  event('fileClosed', { fileId: id, how: z.enum(['refused', 'cancelled', 'failed']), why: z.string().max(80) }),
  event('fileArrived', { fileId: id, sha256: z.string().length(64) }),
  event('handoverRequested', {
    handoverId: id,
    toTechnicianId: who,
    answerByMs: z.number(),
    personal: z.strictObject({ brief: z.string(), toName: z.string() }).optional(),
  }),
  event('handoverAccepted', { handoverId: id }),
  event('handoverClosed', { handoverId: id, how: z.enum(['declined', 'lapsed', 'taken-back', 'customer-said-no']) }),
  event('handedOver', { handoverId: id, fromParticipantId: id, toParticipantId: id }),
  event('tryItAsked', {}),
  event('tryItAnswered', { answer: TryAnswer }),
  event('sessionEnded', {
    /** 'nobody': the service ended what no technician had been in for too long. */
    reason: z.enum([...EndReason.options, 'nobody']),
    why: z.string().max(80),
    fact: z.int().optional(),
  }),
  event('outcomeLogged', {
    outcome: Outcome,
    minutes: z.int().min(0).max(10_000),
    personal: z.strictObject({ note: z.string().max(8000) }).optional(),
  }),
  event('factNoted', { what: z.string().max(60), fact: z.int().optional() }),
  event('personErased', { seqs: z.array(z.int()), rule: z.string().max(80) }),
]);
export type SessionEvent = z.infer<typeof SessionEvent>;
export type EventOf<T extends SessionEvent['type']> = Extract<SessionEvent, { type: T }>;

/** The version of the shape above. A change to a shipped event raises it and adds a step to bring older ones up. */
export const EVENT_VERSION = 1;
