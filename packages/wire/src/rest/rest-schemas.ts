import {
  Behind,
  InvitationWay,
  Language,
  MAX_BOOKING_MINUTES,
  MAX_LIFETIME_MINUTES,
  MAX_REMIND_MINUTES,
  MAX_USES,
  MIN_LIFETIME_MINUTES,
  Outcome,
  Permission,
  StandingConsent,
} from '@porch/core';
import { BundleView } from './bundle-view.ts';
import { TicketView } from './ticket-view.ts';
import { z } from 'zod';
import { RoutingReasonView } from './routing-reason-view.ts';
import { InEveryLanguage } from './in-every-language.ts';
import { Moment } from './moment.ts';
import { CarefulActView } from './second-yes-schemas.ts';

/* What REST takes and gives. The service's OpenAPI document is made from these; clients check answers with them. */
const text = (max: number) => z.string().trim().max(max);

export const TechnicianView = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string(),
  team: z.string(),
  role: z.enum(['technician', 'trainee', 'lead']),
  isPresent: z.boolean(),
});
export type TechnicianView = z.infer<typeof TechnicianView>;

export const SignInBody = z.strictObject({
  email: text(200),
  password: z.string().min(1).max(200),
  keep: z.enum(['cookie', 'token']),
  /** What WORK_NEEDED asked for. */
  work: z.strictObject({ challenge: text(200), answer: text(40) }).optional(),
});
/** The details of WORK_NEEDED. */
export const WorkNeeded = z.object({ challenge: z.string(), bits: z.number() });
export const SignedIn = z.object({ technician: TechnicianView, token: z.string().optional(), expiresAtMs: Moment });

export const SignInView = z.object({
  id: z.string(),
  begunAtMs: Moment,
  expiresAtMs: Moment,
  /** Where it came from, and what the browser or program says it is. */
  address: z.string(),
  program: z.string(),
  isThisOne: z.boolean(),
});
export type SignInView = z.infer<typeof SignInView>;
export const EndSignInsBody = z.strictObject({
  ids: z.union([z.literal('all-others'), z.array(z.uuid()).min(1).max(100)]),
});

export const CodeView = z.object({
  codeId: z.string(),
  digits: z.string(),
  /** Six digits, asked for along with the code while somebody guesses codes. */
  secondNumber: z.string(),
  remainingMs: z.number(),
  sessionId: z.string(),
});
export type CodeView = z.infer<typeof CodeView>;

export const InvitationView = z.object({
  id: z.string(),
  way: InvitationWay,
  /** Where it was sent; missing when nobody carries it, or the person was erased. */
  address: z.string().optional(),
  language: Language,
  delivery: z.enum(['ready', 'queued', 'handed-over', 'delivered', 'opened', 'failed', 'withdrawn']),
  /** Why it waits or failed. */
  why: z.string().optional(),
  uses: z.number(),
  /** Missing: until the session closes. */
  usesAllowed: z.number().optional(),
  issuedAtMs: Moment,
  changedAtMs: Moment,
  expiresAtMs: Moment,
});
export type InvitationView = z.infer<typeof InvitationView>;

export const InviteBody = z.strictObject({
  way: InvitationWay,
  address: text(200).optional(),
  language: Language.default('en'),
  minutes: z.int().min(MIN_LIFETIME_MINUTES).max(MAX_LIFETIME_MINUTES).optional(),
  uses: z.int().min(1).max(MAX_USES).optional(),
  remark: text(500).default(''),
});
export type InviteBody = z.infer<typeof InviteBody>;
export const Invited = z.object({ invitation: InvitationView, link: z.string() });
export type Invited = z.infer<typeof Invited>;
export const MessagePreview = z.object({ subject: z.string(), text: z.string() });
export type MessagePreview = z.infer<typeof MessagePreview>;

export const SessionView = z.object({
  id: z.string(),
  phase: z.enum(['prepared', 'joining', 'live', 'ended', 'logged']),
  ticketRef: z.string().optional(),
  purpose: z.string(),
  customerName: z.string().optional(),
  technicianId: z.string(),
  technicianName: z.string(),
  behind: Behind,
  deviceId: z.string().optional(),
  outcome: Outcome.optional(),
  minutes: z.number(),
  preparedAtMs: Moment,
  changedAtMs: Moment,
  lastSeq: z.number(),
  code: CodeView.optional(),
  invitations: z.array(InvitationView),
  /** What of this session has not reached the ticket system yet. */
  undelivered: z.number(),
});
export type SessionView = z.infer<typeof SessionView>;

export const QueueMessage = z.object({ atMs: Moment, isDesk: z.boolean(), name: z.string(), text: z.string() });
export type QueueMessage = z.infer<typeof QueueMessage>;

/** Who waits, as they see it themselves. */
export const QueueEntryView = z.object({
  id: z.string(),
  name: z.string(),
  topic: z.string(),
  language: Language,
  description: z.string(),
  ticketRef: z.string().optional(),
  wants: z.enum(['screen', 'chat']),
  callBack: z.string().optional(),
  /** The directory knows them; otherwise they said so themselves. */
  isConfirmed: z.boolean(),
  sinceMs: Moment,
  /** When they were told, as they came, that it would be their turn at the latest; missing when nothing could be said. */
  promisedMs: Moment.optional(),
  state: z.enum(['waiting', 'taken', 'left']),
  messages: z.array(QueueMessage),
});
export type QueueEntryView = z.infer<typeof QueueEntryView>;

/** Who waits, as one technician sees them: how they fit, and what stands between. */
export const WaitingView = QueueEntryView.extend({
  /** The device that their ticket is about, and what kind it is. */
  asset: z.string().optional(),
  assetLabel: z.string().optional(),
  /** Whom it is offered to just now, and how long they have to answer. */
  offer: z.object({ technicianName: z.string(), isMine: z.boolean(), remainingMs: z.number() }).optional(),
  reasons: z.array(RoutingReasonView),
  /** Why routing does not offer it to this technician; picking by hand is theirs to do all the same. */
  hurdles: z.array(RoutingReasonView),
});
export type WaitingView = z.infer<typeof WaitingView>;

export const KnownFaultView = z.object({
  id: z.string(),
  topic: z.string(),
  text: z.string(),
  ticketRef: z.string().optional(),
  happensToCount: z.number(),
  atMs: Moment,
});
export type KnownFaultView = z.infer<typeof KnownFaultView>;
export const KnownFaultBody = z.strictObject({
  topic: text(80).min(1),
  text: text(600).min(1),
  ticketRef: text(40).optional(),
});

/** Where a technician stands for routing. */
export const MyState = z.object({
  isAway: z.boolean(),
  wrapUpMs: z.number(),
  screens: z.number(),
  chats: z.number(),
  limits: z.object({ screens: z.number(), chats: z.number() }),
});
export type MyState = z.infer<typeof MyState>;
export const MyStateBody = z.strictObject({
  isAway: z.boolean(),
  /** For those who work without a console: how long they are here. */
  minutes: z.int().min(1).max(720).optional(),
});

/** A device that a customer lets the desk reach later. */
export const DeviceView = z.object({
  id: z.string(),
  name: z.string(),
  customerName: z.string(),
  allowed: z.array(Permission),
  untilMs: Moment,
  asksEachVisit: z.boolean(),
  /** in-use: somebody worked there a moment ago; away: it is on, and nobody did. */
  state: z.enum(['in-use', 'away', 'offline', 'ended']),
  seenAtMs: Moment.optional(),
  lastVisit: z.object({ atMs: Moment, technicianName: z.string() }).optional(),
  /** Set once it cannot be reached any longer. */
  ended: z.object({ atMs: Moment, how: z.enum(['at-the-device', 'by-the-desk', 'ran-out']) }).optional(),
});
export type DeviceView = z.infer<typeof DeviceView>;
export const DeviceVisitView = z.object({
  sessionId: z.string(),
  atMs: Moment,
  technicianName: z.string(),
  purpose: z.string(),
  outcome: Outcome.optional(),
});
export type DeviceVisitView = z.infer<typeof DeviceVisitView>;
/** What Doorstep tells the desk of a standing consent that was made there; its secret stays there. */
export const KeepDeviceBody = z.strictObject({ consent: StandingConsent, signKey: z.string().regex(/^[0-9a-f]{64}$/) });
export type KeepDeviceBody = z.infer<typeof KeepDeviceBody>;
export const KeptDevice = z.object({ deviceId: z.uuid() });

export const HandoverView = z.object({
  handoverId: z.string(),
  sessionId: z.string(),
  fromName: z.string(),
  brief: z.string(),
  remainingMs: z.number(),
});
export type HandoverView = z.infer<typeof HandoverView>;

export const BookingView = z.object({
  id: z.string(),
  sessionId: z.string(),
  technicianId: z.string(),
  technicianName: z.string(),
  customerName: z.string(),
  address: z.string(),
  telephone: z.string().optional(),
  language: Language,
  purpose: z.string(),
  ticketRef: z.string().optional(),
  startsAtMs: Moment,
  minutes: z.number(),
  /** The customer's, and what its clocks show then. */
  timeZone: z.string(),
  wallTime: z.object({ date: z.string(), time: z.string() }),
  sequence: z.number(),
  isCancelled: z.boolean(),
  delivery: InvitationView.shape.delivery.optional(),
  why: z.string().optional(),
});
export type BookingView = z.infer<typeof BookingView>;
const whenShape = {
  date: text(10),
  time: text(5),
  timeZone: text(60).optional(),
  minutes: z.int().min(5).max(MAX_BOOKING_MINUTES).default(30),
};
export const BookingBody = z.strictObject({
  ...whenShape,
  customerName: text(120).min(1),
  address: text(200).min(1),
  telephone: text(40).optional(),
  language: Language.default('en'),
  purpose: text(300).min(1),
  ticketRef: text(40).optional(),
  /** Whose session it will be; default: who books. */
  technicianId: text(64).optional(),
  remindMinutes: z.array(z.int().min(1).max(MAX_REMIND_MINUTES)).max(4).default([1_440, 60]),
  remark: text(500).default(''),
});
export type BookingBody = z.infer<typeof BookingBody>;
export const MoveBookingBody = z.strictObject(whenShape);
export const CancelBookingBody = z.strictObject({ remark: text(500).default('') });

/** The porch, whole. */
export const PorchView = z.object({
  /** What the desk can send invitations with. */
  ways: z.object({ hasMail: z.boolean(), hasTexts: z.boolean() }),
  bundles: z.array(BundleView),
  me: MyState,
  /** What the desk forbids this technician to ask for. */
  mayNotAsk: z.array(Permission),
  knownFaults: z.array(KnownFaultView),
  /** This technician's bookings of today and the days to come. */
  bookings: z.array(BookingView),
  /** Devices that may be reached, those that are on first. */
  devices: z.array(DeviceView),
  waiting: z.array(WaitingView),
  sessions: z.array(SessionView),
  tickets: z.array(TicketView),
  handovers: z.array(HandoverView),
  /** What waits for a second person's yes, or for a lead to look at it. */
  carefulActs: z.array(CarefulActView).default([]),
  /** Why the list of tickets may be old, in words; missing when all is well. */
  ticketTrouble: z.string().optional(),
  undelivered: z.number(),
  nowMs: Moment,
});
export type PorchView = z.infer<typeof PorchView>;

export const StartBody = z.strictObject({
  ticketRef: text(40).optional(),
  queueEntryId: z.uuid().optional(),
  deviceId: z.uuid().optional(),
  /** The id that the session is to have: asked again with the same, when no answer came, it is the same session. */
  sessionId: z.uuid().optional(),
});
export const Started = z.object({ session: SessionView, code: CodeView, link: z.string(), isNew: z.boolean() });
export type Started = z.infer<typeof Started>;

export const ConnectionPass = z.object({ pass: z.string(), sessionId: z.string(), liveUrl: z.string() });
export type ConnectionPass = z.infer<typeof ConnectionPass>;

export const EraseBody = z.strictObject({ rule: text(80).min(1) });

export const RequestBody = z.strictObject({
  name: text(120).min(1),
  address: text(200),
  topic: text(80).min(1),
  language: Language,
  description: text(2000).min(1),
  ticketRef: text(40).optional(),
  wants: z.enum(['screen', 'chat']).default('screen'),
  callBack: text(40).optional(),
});
export const EstimateView = z.object({ aboutMs: z.number(), fromMs: z.number(), toMs: z.number() });
export type EstimateView = z.infer<typeof EstimateView>;
export const EntryStatus = z.object({
  entry: QueueEntryView,
  place: z.number(),
  /** Missing when nobody is at the desk: then no number would be honest. */
  estimate: EstimateView.optional(),
  isBeingRead: z.boolean(),
  token: z.string().optional(),
  /** Once a technician has taken the entry: what lets the customer in. */
  joinToken: z.string().optional(),
});
export type EntryStatus = z.infer<typeof EntryStatus>;

export const ReceiptView = z.object({
  sessionId: z.string(),
  deskName: z.string(),
  deskPhone: z.string(),
  /** Set when the customer said that this felt wrong, or that somebody had called them. */
  isSuspect: z.boolean(),
  customerName: z.string(),
  technicians: z.array(z.string()),
  ticketRef: z.string().optional(),
  startedAtMs: Moment.optional(),
  minutes: z.number(),
  /** What each technician was allowed, from when until when. */
  allowed: z.array(z.object({ name: z.string(), permission: Permission, fromMs: Moment, toMs: Moment.optional() })),
  files: z.array(
    z.object({
      name: z.string(),
      sizeBytes: z.number(),
      isToCustomer: z.boolean(),
      stage: z.enum(['offered', 'moving', 'arrived', 'refused', 'cancelled', 'failed']),
    }),
  ),
  lines: z.array(z.object({ atMs: Moment, sentence: z.string() })),
  head: z.object({ seq: z.number(), hash: z.string() }),
  phase: SessionView.shape.phase,
});
export type ReceiptView = z.infer<typeof ReceiptView>;

export const SayBody = z.strictObject({ token: text(100), text: text(2000).min(1) });

/** What the front door says before anybody types. */
export const DeskView = z.object({
  deskName: z.string(),
  deskPhone: z.string(),
  /** What a request is filed under, and how it is called in each language. */
  topics: z.array(z.object({ topic: z.string(), words: InEveryLanguage })),
  /** Whether the desk has a directory to sign in at, and whether it insists. */
  canSignIn: z.boolean(),
  needsSignIn: z.boolean(),
  person: z.object({ name: z.string(), address: z.string() }).optional(),
  isOpen: z.boolean(),
  opensAtMs: Moment.optional(),
  timeZone: z.string(),
  isFull: z.boolean(),
  waiting: z.number(),
  estimate: EstimateView.optional(),
  knownFaults: z.array(KnownFaultView),
});
export type DeskView = z.infer<typeof DeskView>;
