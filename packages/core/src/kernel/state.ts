import type { LedgerWords } from '@porch/words/ledger/shape';
import type { Language } from '../language.ts';
import type { AnyPart, BesidePart, Part, Side } from '../people/part.ts';
import { rulesOf, type Permission, type WhyNot } from '../permission/permission.ts';
import type { PermissionStanding } from '../permission/permission-rules.ts';
import type { KernelEventOf } from './events.ts';
import type { Aim, Behind, Outcome, Proof, WhoseComputer } from './vocabulary.ts';

export type EndReasonName = KernelEventOf<'sessionEnded'>['reason'];

export type Phase =
  | { name: 'prepared' }
  | { name: 'joining' }
  | { name: 'live'; sinceMs: number }
  | { name: 'ended'; sinceMs: number; liveMs: number; reason: EndReasonName }
  | {
      name: 'logged';
      sinceMs: number;
      liveMs: number;
      reason: EndReasonName;
      outcome: Outcome;
    };

export interface Participant {
  readonly id: string;
  /** The participant's short number in this session: what binary headers carry. Never given twice. */
  readonly seat: number;
  readonly side: Side;
  readonly part: AnyPart;
  readonly technicianId: string | undefined;
  readonly signKey: string;
  readonly agreeKey: string;
  /** The start of their program that counts now, and those that count no longer. */
  readonly startId: string;
  readonly pastStarts: readonly string[];
  readonly proof: Proof | undefined;
  /** The highest number of a fact that they reported. */
  readonly lastFact: number;
  /** Another program has their place: they do nothing more. */
  readonly isReplaced: boolean;
  readonly isGone: boolean;
  /** What this program says it cannot do, if it holds the consent. */
  readonly cannot: Readonly<Partial<Record<Permission, WhyNot>>>;
  /** What it says it can do; undefined for a program that did not say. */
  readonly can: readonly string[] | undefined;
  /** Missing once erased. */
  readonly name: string | undefined;
}

export interface OpenAsk {
  readonly id: string;
  readonly participantId: string;
  readonly permissions: readonly Permission[];
  readonly expiresAtMs: number;
}

export type HandoverStage = 'offered' | 'accepted';
export interface Handover {
  readonly id: string;
  readonly fromParticipantId: string;
  readonly toTechnicianId: string;
  readonly stage: HandoverStage;
  readonly answerByMs: number;
}

export type Standings = Readonly<Partial<Record<Permission, PermissionStanding>>>;

/** What the kernel knows of a session. Plain data: two replays can be compared. */
export interface KernelState {
  readonly phase: Phase;
  readonly ticketRef: string | undefined;
  readonly behind: Behind;
  /** The device that is visited. */
  readonly deviceId: string | undefined;
  /** What the customer is spoken to in. */
  readonly language: Language;
  readonly purpose: string | undefined;
  readonly customerPurpose: string | undefined;
  readonly asset: string | undefined;
  /** What kind of device that is, as the ticket system says. */
  readonly deviceLabel: string | undefined;
  readonly technicianId: string | undefined;
  readonly technicianName: string | undefined;
  readonly customerName: string | undefined;
  readonly customerAddress: string | undefined;
  readonly identity: 'unknown' | 'said-so-themselves' | 'confirmed-by-ticket' | 'confirmed-by-directory';
  readonly aim: Aim;
  readonly computer: WhoseComputer | undefined;
  readonly isMinor: boolean;
  readonly callAnswer: 'i-called' | 'they-called' | undefined;
  readonly hasAccepted: boolean;
  readonly holderId: string | undefined;
  /** A Doorstep that wants to take the holder's place. */
  readonly candidateId: string | undefined;
  readonly participants: Readonly<Record<string, Participant>>;
  readonly standings: Readonly<Record<string, Standings>>;
  readonly asks: Readonly<Record<string, OpenAsk>>;
  /** When the customer last said no to each, to whomever: a new key or a reload is not a new question. */
  readonly lastNoMs: Readonly<Partial<Record<Permission, number>>>;
  /** How often the customer said no to each, to whomever: so that nobody is worn down. */
  readonly noes: Readonly<Partial<Record<Permission, number>>>;
  readonly lastGrantNumber: number;
  /** What is to be asked once the customer is in. */
  readonly planned: readonly string[];
  readonly handover: Handover | undefined;
  /** Those of the desk who may come in beside the lead, by their technician's id, and as what. */
  readonly letIn: Readonly<Record<string, BesidePart>>;
  readonly isTryAsked: boolean;
  readonly tryAnswer: 'works' | 'does-not' | 'cannot-tell' | undefined;
  /** Visitors who showed by the device's second secret that nobody sits between the two programs. */
  readonly provenIds: readonly string[];
  /** What later releases wrote into this session: a program that meets its kernel there stops acting. */
  readonly notUnderstood: readonly string[];
}

export const newKernel: KernelState = {
  phase: { name: 'prepared' },
  ticketRef: undefined,
  behind: 'nothing',
  deviceId: undefined,
  language: 'en',
  purpose: undefined,
  customerPurpose: undefined,
  asset: undefined,
  deviceLabel: undefined,
  technicianId: undefined,
  technicianName: undefined,
  customerName: undefined,
  customerAddress: undefined,
  identity: 'unknown',
  aim: 'work',
  computer: undefined,
  isMinor: false,
  callAnswer: undefined,
  hasAccepted: false,
  holderId: undefined,
  candidateId: undefined,
  participants: {},
  standings: {},
  asks: {},
  lastNoMs: {},
  noes: {},
  lastGrantNumber: 0,
  planned: [],
  handover: undefined,
  letIn: {},
  isTryAsked: false,
  tryAnswer: undefined,
  provenIds: [],
  notUnderstood: [],
};

export const isOver = (state: KernelState): boolean => state.phase.name === 'ended' || state.phase.name === 'logged';

export const presentParticipants = (state: Pick<KernelState, 'participants'>): Participant[] =>
  Object.values(state.participants).filter((p) => !p.isGone);
export const presentOf = (state: Pick<KernelState, 'participants'>, side: Side): Participant[] =>
  presentParticipants(state).filter((p) => p.side === side);
export const presentAs = (state: Pick<KernelState, 'participants'>, part: Part): Participant[] =>
  presentParticipants(state).filter((p) => p.part === part);
/** Whether somebody other than the customer says who they are. */
export const isConfirmed = ({ identity }: Pick<KernelState, 'identity'>): boolean =>
  identity === 'confirmed-by-ticket' || identity === 'confirmed-by-directory';
/** Whoever leads the session and is here: one at most. */
export const leadOf = (state: Pick<KernelState, 'participants'>): Participant | undefined =>
  presentAs(state, 'lead')[0];
/** Whoever holds the consent just now, and so answers technicians' programs; undefined when nobody does. */
export const consentHolderOf = ({
  holderId,
  participants,
}: Pick<KernelState, 'holderId' | 'participants'>): Participant | undefined =>
  holderId === undefined ? undefined : participants[holderId];
/** Whoever has, or had, this seat. */
export const participantAt = (
  { participants }: Pick<KernelState, 'participants'>,
  seat: number,
): Participant | undefined => Object.values(participants).find((p) => p.seat === seat);
/** Whether this technician takes the session over, and has accepted to. */
export const isTakingOver = ({ handover }: Pick<KernelState, 'handover'>, technicianId: string | undefined): boolean =>
  handover?.stage === 'accepted' && handover.toTechnicianId === technicianId;

/** As what the lead lets this technician come in beside them. */
export const letInAs = ({ letIn }: Pick<KernelState, 'letIn'>, technicianId: string): BesidePart | undefined =>
  Object.hasOwn(letIn, technicianId) ? letIn[technicianId] : undefined;

/** As what somebody of the desk may come in; undefined when they may not. */
export function partOfTechnician(state: KernelState, technicianId: string): Part | undefined {
  const lead = leadOf(state);
  if (state.technicianId === technicianId) return !lead || lead.technicianId === technicianId ? 'lead' : 'colleague';
  if (isTakingOver(state, technicianId)) return 'colleague';
  return letInAs(state, technicianId);
}

export function standingOf(state: KernelState, participantId: string, permission: Permission): PermissionStanding {
  return state.standings[participantId]?.[permission] ?? { name: 'notAsked' };
}

/**
 * Why this program cannot hold that permission; undefined when it can. A page can show, and nothing else: it cannot
 * keep anybody from pressing keys, since it presses none.
 */
export function whyNotWith(holder: Participant, permission: Permission): WhyNot | undefined {
  if (holder.part !== 'doorstep' && !rulesOf(permission).worksInBrowser) return 'browser-cannot';
  const isUnnamed = holder.can !== undefined && !holder.can.includes(permission);
  return holder.cannot[permission] ?? (isUnnamed ? 'older-program' : undefined);
}

/** Whether the customer must be asked who called whom before anything else. */
export const needsCallAnswer = (state: KernelState): boolean =>
  state.behind === 'nothing' && state.callAnswer === undefined;

/** What the person behind an id is called here. */
export function personName(s: KernelState, id: string, { kernel: { people } }: LedgerWords): string {
  if (id === 'service') return people.service;
  if (id.startsWith('technician:')) return s.technicianName ?? people.theTechnician;
  const p = s.participants[id];
  if (!p) return people.somebody;
  if (p.side === 'desk') return p.name ?? people.aTechnician;
  return s.customerName ?? p.name ?? people.customer;
}
