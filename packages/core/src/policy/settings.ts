import { languages } from '@porch/words';
import { leaveForRights } from '../abilities/administrator-rights/rules.ts';
import { readFileKinds } from '../abilities/files/refused-kinds.ts';
import { readCarefulLabels } from '../abilities/risky-acts/careful-labels.ts';
import { readNotice } from '../notice.ts';
import { readTemplates } from '../invitation/message.ts';
import { readAskLimits } from '../permission/asking.ts';
import { readBundles } from '../permission/bundle.ts';
import { MAX_STANDING_DAYS } from '../device/standing-consent.ts';
import { readOfficeHours } from '../queue/office-hours.ts';
import { amount, document, oneOf, setting, text, yesOrNo, type Setting } from './setting.ts';

const whole = { isWhole: true };

function readTimeZone(timeZone: string): void {
  try {
    new Intl.DateTimeFormat('en', { timeZone });
  } catch (cause) {
    throw new Error('must be an IANA time zone such as Europe/Oslo', { cause });
  }
}
function readDeskName(name: string): void {
  if (!name.trim()) throw new Error('must say something: customers read it');
}

/** Everything that a desk can set. The names are those that somebody types and that the database keeps. */
export const settings = {
  'desk-name': setting({
    kind: text(80, readDeskName),
    first: 'The desk',
    earlier: 'PORCH_DESK_NAME',
  }),
  'desk-phone': setting({
    kind: text(40),
    first: '',
    earlier: 'PORCH_DESK_PHONE',
  }),
  'desk-language': setting({
    kind: oneOf(...languages),
    first: 'en',
  }),
  'time-zone': setting({
    kind: text(60, readTimeZone),
    first: 'UTC',
    earlier: 'PORCH_TIME_ZONE',
  }),
  'office-hours': setting({
    kind: text(400, readOfficeHours),
    first: '',
    earlier: 'PORCH_OFFICE_HOURS',
  }),
  notice: setting({
    kind: document(30_000, readNotice),
    first: {},
    earlier: 'PORCH_NOTICE_FILE',
    isEarlierFile: true,
  }),
  'message-templates': setting({
    kind: document(60_000, readTemplates),
    first: {},
    earlier: 'PORCH_TEMPLATES_FILE',
    isEarlierFile: true,
  }),
  'requests-signed-in': setting({
    kind: yesOrNo,
    first: false,
    earlier: 'PORCH_REQUESTS_SIGNED_IN',
  }),

  'code-minutes': setting({
    kind: amount(0.01, 1440),
    first: 30,
    unit: 'min',
    isTeams: true,
    earlier: 'PORCH_CODE_MINUTES',
  }),
  'code-rotate-minutes': setting({
    kind: amount(0, 1440),
    first: 0,
    unit: 'min',
    earlier: 'PORCH_CODE_ROTATE_MINUTES',
  }),
  'code-single-use': setting({
    kind: yesOrNo,
    first: false,
    earlier: 'PORCH_CODE_SINGLE_USE',
  }),
  'invitation-hours': setting({
    kind: amount(0.1, 336),
    first: 24,
    unit: 'h',
    isTeams: true,
    earlier: 'PORCH_INVITATION_HOURS',
  }),

  'ask-seconds': setting({
    kind: amount(1, 600),
    first: 90,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_ASK_SECONDS',
  }),
  'ask-again-seconds': setting({
    kind: amount(0, 3600),
    first: 10,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_ASK_AGAIN_SECONDS',
  }),
  'sensitive-ask-seconds': setting({
    kind: amount(1, 600),
    first: 180,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_SENSITIVE_ASK_SECONDS',
  }),
  'sensitive-ask-again-seconds': setting({
    kind: amount(0, 3600),
    first: 60,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_SENSITIVE_ASK_AGAIN_SECONDS',
  }),
  bundles: setting({
    kind: text(2_000, readBundles),
    first: '',
    isTeams: true,
    earlier: 'PORCH_BUNDLES',
  }),
  'may-not-ask': setting({
    kind: text(4_000, readAskLimits),
    first: '',
    earlier: 'PORCH_MAY_NOT_ASK',
  }),
  'words-before-control': setting({
    kind: yesOrNo,
    first: false,
    isTeams: true,
    earlier: 'PORCH_WORDS_BEFORE_CONTROL',
  }),
  'never-resting-labels': setting({
    kind: text(400),
    first: 'bridge, clinical',
    isTeams: true,
  }),
  'away-minutes': setting({
    kind: amount(0.01, 240),
    first: 10,
    unit: 'min',
    isTeams: true,
    earlier: 'PORCH_AWAY_MINUTES',
  }),
  'standing-consent-days': setting({
    kind: amount(0, MAX_STANDING_DAYS, whole),
    first: MAX_STANDING_DAYS,
    unit: 'days',
    isTeams: true,
    earlier: 'PORCH_STANDING_CONSENT_DAYS',
  }),
  'max-file-mb': setting({
    kind: amount(0.001, 10_240),
    first: 256,
    unit: 'MB',
    isTeams: true,
    earlier: 'PORCH_MAX_FILE_MB',
  }),
  'refused-file-kinds': setting({ kind: text(400, readFileKinds), first: '', isTeams: true }),
  'careful-labels': setting({
    kind: text(800, readCarefulLabels),
    first: 'bridge: second person; clinical: never',
    isTeams: true,
  }),
  'max-safe-point-mb': setting({ kind: amount(0.001, 65_536), first: 2_048, unit: 'MB', isTeams: true }),
  'untouched-programs': setting({ kind: text(400), first: '', isTeams: true }),
  'runbook-drafts': setting({ kind: yesOrNo, first: false, isTeams: true }),
  'rights-minutes': setting({ kind: amount(1, 480, whole), first: 30, unit: 'min', isTeams: true }),
  'rights-by-desk': setting({ kind: oneOf(...leaveForRights), first: 'second-person', isTeams: true }),
  'restart-late-minutes': setting({ kind: amount(0.05, 240), first: 10, unit: 'min', isTeams: true }),
  'max-clipboard-mb': setting({ kind: amount(0.001, 256), first: 64, unit: 'MB', isTeams: true }),

  'max-screens': setting({
    kind: amount(1, 20, whole),
    first: 3,
    isTeams: true,
    earlier: 'PORCH_MAX_SCREENS',
  }),
  'max-chats': setting({
    kind: amount(1, 50, whole),
    first: 5,
    isTeams: true,
    earlier: 'PORCH_MAX_CHATS',
  }),
  'wrap-up-seconds': setting({
    kind: amount(0, 3600),
    first: 60,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_WRAP_UP_SECONDS',
  }),
  'offer-seconds': setting({
    kind: amount(1, 300),
    first: 20,
    unit: 's',
    earlier: 'PORCH_OFFER_SECONDS',
  }),
  'handover-seconds': setting({
    kind: amount(1, 600),
    first: 60,
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_HANDOVER_SECONDS',
  }),
  'max-waiting': setting({
    kind: amount(1, 5_000, whole),
    first: 200,
    earlier: 'PORCH_MAX_WAITING',
  }),

  'ticket-if-none': setting({
    kind: oneOf('never', 'at-start', 'at-end'),
    first: 'at-end',
    isTeams: true,
    earlier: 'PORCH_TICKET_IF_NONE',
  }),
  'grace-seconds': setting({
    kind: amount(0.1, 3600),
    first: 90,
    unit: 's',
    earlier: 'PORCH_GRACE_SECONDS',
  }),
  'abandoned-minutes': setting({
    kind: amount(0.01, 10_080),
    first: 30,
    unit: 'min',
    earlier: 'PORCH_ABANDONED_MINUTES',
  }),
  'max-entries': setting({
    kind: amount(100, 200_000, whole),
    first: 20_000,
    earlier: 'PORCH_MAX_ENTRIES',
  }),
};

export type SettingName = keyof typeof settings;
export type SettingValues = { readonly [N in SettingName]: (typeof settings)[N] extends Setting<infer V> ? V : never };

export const settingNames = Object.keys(settings) as SettingName[];
export const isSettingName = (name: string): name is SettingName => Object.hasOwn(settings, name);
/** One of them, where it does not matter which. */
export const settingOf = (name: SettingName): Setting<unknown> => settings[name] as Setting<unknown>;

/** A kept value as it is used, or what is wrong with it. */
export function readSettingValue(name: SettingName, kept: unknown): { value: unknown } | { wrong: string } {
  const parsed = settingOf(name).kind.schema.safeParse(kept);
  return parsed.success ? { value: parsed.data } : { wrong: parsed.error.issues.map((i) => i.message).join('; ') };
}

/** What somebody typed, as it is kept. Throws with what is wrong. */
export function readSettingText(name: SettingName, typed: string): unknown {
  const read = readSettingValue(name, settingOf(name).kind.fromText(typed));
  if ('wrong' in read) throw new Error(read.wrong);
  return read.value;
}
