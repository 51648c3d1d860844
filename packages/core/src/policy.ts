import type { AbilityPolicy } from './abilities/rules.ts';
import type { Language } from './language.ts';
import { defaultNotice } from './notice.ts';
import { defaultAskLimits, type AskLimit, type AskRules } from './permission/asking.ts';
import { defaultBundles, type Bundle } from './permission/bundle.ts';
import type { OfficeHours } from './queue/office-hours.ts';
import type { TopicNeeds } from './queue/topic-needs.ts';
import { defaultRoutingRules, type RoutingRules } from './queue/routing.ts';

/** What the desk allows, and how long things take. */
export interface Policy extends AbilityPolicy {
  readonly codeLifetimeMs: number;
  /** A code that nobody used is changed for a new one after this; 0: never. */
  readonly codeRotateMs: number;
  /** Whether a code is gone with the first who comes in by it; otherwise the customer's page and Doorstep may each use it. */
  readonly isCodeSingleUse: boolean;
  readonly invitationLifetimeMs: number;
  readonly asks: AskRules;
  /** Who may not ask what. */
  readonly askLimits: readonly AskLimit[];
  /** Minutes without a sign of the customer after which control pauses. */
  readonly awayAfterMs: number;
  /** A session that no technician has been in, and in which nothing happened, for so long is ended by the service. */
  readonly abandonedAfterMs: number;
  /** How many entries a session's ledger takes. */
  readonly maxEntries: number;
  /** The longest that a standing consent may last; 0: this desk has none. */
  readonly standingConsentDays: number;
  readonly grantLifetimeMs: number;
  readonly handoverAnswerMs: number;
  /** Technicians' limits, and how long they are left alone after a session. */
  readonly limits: { readonly screens: number; readonly chats: number };
  readonly wrapUpMs: number;
  readonly routing: RoutingRules;
  readonly topicNeeds: TopicNeeds;
  readonly officeHours: OfficeHours;
  readonly maxWaiting: number;
  /** When a session that began without a ticket gets one: once the customer is in, or with its outcome. */
  readonly ticketIfNone: 'never' | 'at-start' | 'at-end';
  readonly bundles: readonly Bundle[];
  readonly noticeVersion: string;
  /** What the customer is told before they begin, whole: purpose, who receives what, how long it is kept. */
  readonly notice: Readonly<Record<Language, string>>;
  readonly deskName: string;
  readonly deskPhone: string;
  /** Where the desk is: what it says of days and hours is meant there (an IANA name). */
  readonly timeZone: string;
}

const MINUTE_MS = 60_000;

export const defaultPolicy: Policy = {
  codeLifetimeMs: 30 * MINUTE_MS,
  codeRotateMs: 0,
  isCodeSingleUse: false,
  invitationLifetimeMs: 24 * 60 * MINUTE_MS,
  asks: { usual: { openMs: 90_000, againMs: 10_000 }, sensitive: { openMs: 3 * MINUTE_MS, againMs: MINUTE_MS } },
  askLimits: defaultAskLimits,
  awayAfterMs: 10 * MINUTE_MS,
  abandonedAfterMs: 30 * MINUTE_MS,
  maxEntries: 20_000,
  standingConsentDays: 90,
  grantLifetimeMs: 8 * 60 * MINUTE_MS,
  handoverAnswerMs: 60_000,
  maxFileBytes: 256 * 1024 * 1024,
  limits: { screens: 3, chats: 5 },
  wrapUpMs: 60_000,
  routing: defaultRoutingRules,
  topicNeeds: new Map(),
  officeHours: [],
  maxWaiting: 200,
  ticketIfNone: 'at-end',
  bundles: defaultBundles,
  controlNeedsComparedWords: false,
  noticeVersion: '2026-11',
  notice: defaultNotice,
  deskName: 'The desk',
  deskPhone: '',
  timeZone: 'UTC',
};
