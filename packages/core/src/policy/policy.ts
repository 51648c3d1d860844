import { RAISE_RISK } from '../abilities/administrator-rights/shape.ts';
import { readCarefulLabels } from '../abilities/risky-acts/careful-labels.ts';
import { readFileKinds } from '../abilities/files/refused-kinds.ts';
import type { AbilityPolicy } from '../abilities/rules.ts';
import type { Language } from '../language.ts';
import { defaultNotice, readNotice } from '../notice.ts';
import { readTemplates, type Templates } from '../invitation/message.ts';
import { readAskLimits, type AskLimit, type AskRules } from '../permission/asking.ts';
import { defaultBundles, readBundles, type Bundle } from '../permission/bundle.ts';
import { readOfficeHours, type OfficeHours } from '../queue/office-hours.ts';
import type { Topic } from '../queue/topic.ts';
import { defaultRoutingRules, type RoutingRules } from '../queue/routing.ts';
import type { SettingValues } from './settings.ts';

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
  /** The most that is moved from one clipboard to the other at once. */
  /** Whether authors may run what they wrote before it is approved. */
  readonly mayRunDrafts: boolean;
  readonly maxClipboardBytes: number;
  /** Names of programs and services that nobody ends or changes from the desk. */
  readonly untouchedPrograms: readonly string[];
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
  readonly topics: readonly Topic[];
  readonly officeHours: OfficeHours;
  readonly maxWaiting: number;
  /** When a session that began without a ticket gets one: once the customer is in, or with its outcome. */
  readonly ticketIfNone: 'never' | 'at-start' | 'at-end';
  readonly bundles: readonly Bundle[];
  /** The desk's own words for messages, and ours for the rest. */
  readonly templates: Templates;
  /** Whether only people whom the directory knows may ask for help. */
  readonly requestsNeedSignIn: boolean;
  /** How long a broken line is waited for before whoever had it has left. */
  readonly graceMs: number;
  /** A computer of which nothing was heard for so long after a restart needs somebody who looks at it. */
  readonly restartLateMs: number;
  readonly noticeVersion: string;
  /** What the customer is told before they begin, whole: purpose, who receives what, how long it is kept. */
  readonly notice: Readonly<Record<Language, string>>;
  readonly deskName: string;
  readonly deskPhone: string;
  /** What the desk itself writes and reads: notes, briefs, tickets. */
  readonly deskLanguage: Language;
  /** Where the desk is: what it says of days and hours is meant there (an IANA name). */
  readonly timeZone: string;
}

const SECOND_MS = 1_000;
const MINUTE_MS = 60_000;
const HOUR_MS = 60 * MINUTE_MS;
const MEGABYTE = 1024 * 1024;
const GRANT_LIFETIME_MS = 8 * HOUR_MS;
/** Of the notice that the product comes with. */
const NOTICE_VERSION = '2026-11';

/** The rules that values of settings come to. */
export function policyFrom(values: SettingValues, topics: readonly Topic[]): Policy {
  return {
    ...rulesOfAsking(values),
    ...rulesOfTheDesk(values),
    codeLifetimeMs: values['code-minutes'] * MINUTE_MS,
    codeRotateMs: values['code-rotate-minutes'] * MINUTE_MS,
    isCodeSingleUse: values['code-single-use'],
    invitationLifetimeMs: values['invitation-hours'] * HOUR_MS,
    awayAfterMs: values['away-minutes'] * MINUTE_MS,
    graceMs: values['grace-seconds'] * SECOND_MS,
    restartLateMs: values['restart-late-minutes'] * MINUTE_MS,
    abandonedAfterMs: values['abandoned-minutes'] * MINUTE_MS,
    maxEntries: values['max-entries'],
    maxFileBytes: Math.floor(values['max-file-mb'] * MEGABYTE),
    refusedFileKinds: readFileKinds(values['refused-file-kinds']),
    carefulLabels: readCarefulLabels(values['careful-labels']),
    maxSafePointBytes: Math.floor(values['max-safe-point-mb'] * MEGABYTE),
    untouchedPrograms: readList(values['untouched-programs']),
    mayRunDrafts: values['runbook-drafts'],
    rightsMs: values['rights-minutes'] * MINUTE_MS,
    actsOfTwo: values['rights-by-desk'] === 'second-person' ? [RAISE_RISK] : [],
    rightsByDesk: values['rights-by-desk'],
    maxClipboardBytes: Math.floor(values['max-clipboard-mb'] * MEGABYTE),
    handoverAnswerMs: values['handover-seconds'] * SECOND_MS,
    limits: { screens: values['max-screens'], chats: values['max-chats'] },
    wrapUpMs: values['wrap-up-seconds'] * SECOND_MS,
    routing: { ...defaultRoutingRules, offerMs: values['offer-seconds'] * SECOND_MS },
    maxWaiting: values['max-waiting'],
    ticketIfNone: values['ticket-if-none'],
    topics,
  };
}

function rulesOfAsking(values: SettingValues) {
  return {
    asks: {
      usual: { openMs: values['ask-seconds'] * SECOND_MS, againMs: values['ask-again-seconds'] * SECOND_MS },
      sensitive: {
        openMs: values['sensitive-ask-seconds'] * SECOND_MS,
        againMs: values['sensitive-ask-again-seconds'] * SECOND_MS,
      },
    },
    askLimits: readAskLimits(values['may-not-ask']),
    bundles: values.bundles ? readBundles(values.bundles) : defaultBundles,
    neverRestingLabels: readList(values['never-resting-labels']),
    controlNeedsComparedWords: values['words-before-control'],
    standingConsentDays: values['standing-consent-days'],
    grantLifetimeMs: GRANT_LIFETIME_MS,
  };
}

const readList = (text: string): string[] => text.split(',').flatMap((one) => one.trim() || []);

function rulesOfTheDesk(values: SettingValues) {
  const notice = Object.keys(values.notice).length
    ? readNotice(values.notice)
    : { version: NOTICE_VERSION, texts: defaultNotice };
  return {
    deskName: values['desk-name'],
    deskPhone: values['desk-phone'],
    deskLanguage: values['desk-language'],
    timeZone: values['time-zone'],
    officeHours: readOfficeHours(values['office-hours']),
    noticeVersion: notice.version,
    notice: notice.texts,
    templates: readTemplates(values['message-templates']),
    requestsNeedSignIn: values['requests-signed-in'],
  };
}
