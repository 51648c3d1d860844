import { z } from 'zod';
import { id, who } from '../../ability/fields.ts';
import { Language } from '../../language.ts';
import { Role } from '../../people/role.ts';
import type { Permission, WhyNot } from '../../permission/permission.ts';
import { event, openName } from '../event-schema.ts';
import { Aim, CallAnswer, Proof, WhoseComputer } from '../vocabulary.ts';

const key = z.string().min(40).max(64);
/** A catalogue of permissions is a page, not a book. */
export const MOST_NAMES = 200;
/** What a program cannot do, and why: names of later releases are kept. */
export const Cannot = z.record(openName, openName).refine((cannot) => Object.keys(cannot).length <= MOST_NAMES, {
  message: `at most ${MOST_NAMES} names`,
}) as unknown as z.ZodType<Partial<Record<Permission, WhyNot>>>;

/** Who comes in, who they are, and who goes. */
export const joiningEvents = [
  event('participantJoined', {
    participantId: id,
    seat: z.int().min(1).max(65_535),
    role: Role,
    /** What they are in the session. Missing: as their program's kind and the session say. */
    part: openName.optional(),
    technicianId: who.optional(),
    signKey: key,
    agreeKey: key,
    startId: z.string().max(64).optional(),
    proof: Proof.optional(),
    way: z.string().max(40),
    /** What the program says it cannot do. Missing: it said nothing, and can what the first release could. */
    cannot: Cannot.optional(),
    /** What the program says it can do; what is not named it cannot. Missing: a program that did not say. */
    can: z.array(openName).max(MOST_NAMES).optional(),
    /** What it knows of each ability. */
    abilities: z.record(openName, z.int()).optional(),
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
  event('callAnswered', { answer: CallAnswer }),
  event('customerAccepted', { noticeVersion: z.string().max(20) }),
  /** Doorstep let a visit begin under its standing consent: the second secret was right, and it was welcome where it must be. */
  event('visitBegan', { participantId: id, wasAsked: z.boolean() }),
] as const;
