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
    label: 'Name of the desk',
    help: 'What customers read of who helps them.',
    earlier: 'PORCH_DESK_NAME',
  }),
  'desk-phone': setting({
    kind: text(40),
    first: '',
    label: 'Telephone number of the desk',
    help: 'Where customers may ring; empty: none is shown.',
    earlier: 'PORCH_DESK_PHONE',
  }),
  'time-zone': setting({
    kind: text(60, readTimeZone),
    first: 'UTC',
    label: 'Time zone of the desk',
    help: 'An IANA name; what the desk says of days and hours is meant there.',
    earlier: 'PORCH_TIME_ZONE',
  }),
  'office-hours': setting({
    kind: text(400, readOfficeHours),
    first: '',
    label: 'Office hours',
    help: 'Like “Mon-Fri 07:00-17:00; Sat 09:00-13:00”, in the time zone of the desk; empty: always open.',
    earlier: 'PORCH_OFFICE_HOURS',
  }),
  notice: setting({
    kind: document(30_000, readNotice),
    first: {},
    label: 'Notice to customers',
    help: 'What they can read before they begin: “version”, and the text as “en”, “no” and “de”.',
    earlier: 'PORCH_NOTICE_FILE',
    isEarlierFile: true,
  }),
  'message-templates': setting({
    kind: document(60_000, readTemplates),
    first: {},
    label: 'Words of messages',
    help: 'The own words of the desk, by kind of message and language; what is not there stays as it comes.',
    earlier: 'PORCH_TEMPLATES_FILE',
    isEarlierFile: true,
  }),
  'requests-signed-in': setting({
    kind: yesOrNo,
    first: false,
    label: 'Ask for help only when signed in',
    help: 'Whether only people whom the directory knows may ask for help.',
    earlier: 'PORCH_REQUESTS_SIGNED_IN',
  }),

  'code-minutes': setting({
    kind: amount(0.01, 1440),
    first: 30,
    label: 'A code lasts',
    help: 'So long after it was made nobody comes in by it any more.',
    unit: 'min',
    isTeams: true,
    earlier: 'PORCH_CODE_MINUTES',
  }),
  'code-rotate-minutes': setting({
    kind: amount(0, 1440),
    first: 0,
    label: 'New digits after',
    help: 'A code that nobody used gets new digits after so long; 0: never.',
    unit: 'min',
    earlier: 'PORCH_CODE_ROTATE_MINUTES',
  }),
  'code-single-use': setting({
    kind: yesOrNo,
    first: false,
    label: 'A code is used once',
    help: 'Whether a code is gone with the first who comes in by it; otherwise the page and Doorstep may each use it.',
    earlier: 'PORCH_CODE_SINGLE_USE',
  }),
  'invitation-hours': setting({
    kind: amount(0.1, 336),
    first: 24,
    label: 'An invitation lasts',
    help: 'So long one can come in by its link, unless whoever sent it said otherwise.',
    unit: 'h',
    isTeams: true,
    earlier: 'PORCH_INVITATION_HOURS',
  }),

  'ask-seconds': setting({
    kind: amount(1, 600),
    first: 90,
    label: 'A question stands for',
    help: 'So long the customer has for an answer; after it nothing is allowed.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_ASK_SECONDS',
  }),
  'ask-again-seconds': setting({
    kind: amount(0, 3600),
    first: 10,
    label: 'Asked again after a no',
    help: 'How soon the same may be asked again; each further no doubles it.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_ASK_AGAIN_SECONDS',
  }),
  'sensitive-ask-seconds': setting({
    kind: amount(1, 600),
    first: 180,
    label: 'A question that is asked alone stands for',
    help: 'The same, for permissions that are always asked alone: people think longer about them.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_SENSITIVE_ASK_SECONDS',
  }),
  'sensitive-ask-again-seconds': setting({
    kind: amount(0, 3600),
    first: 60,
    label: 'Asked alone again after a no',
    help: 'The same, for permissions that are always asked alone.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_SENSITIVE_ASK_AGAIN_SECONDS',
  }),
  bundles: setting({
    kind: text(2_000, readBundles),
    first: '',
    label: 'Asked for together',
    help: 'Like “Look and work = view-screen + control-input; …”; empty: the two that the product comes with.',
    isTeams: true,
    earlier: 'PORCH_BUNDLES',
  }),
  'may-not-ask': setting({
    kind: text(4_000, readAskLimits),
    first: '',
    label: 'Who may not ask what',
    help: 'Like “Back Office: use-command-line + raise-rights; trainee: control-input; *: block-input”: a team, a role, or everybody.',
    earlier: 'PORCH_MAY_NOT_ASK',
  }),
  'words-before-control': setting({
    kind: yesOrNo,
    first: false,
    label: 'Check words before control',
    help: 'Whether the check words must be compared before mouse and keyboard are asked for.',
    isTeams: true,
    earlier: 'PORCH_WORDS_BEFORE_CONTROL',
  }),
  'away-minutes': setting({
    kind: amount(0.01, 240),
    first: 10,
    label: 'Control pauses after',
    help: 'So long without a sign of the customer, and nobody works their mouse and keyboard.',
    unit: 'min',
    isTeams: true,
    earlier: 'PORCH_AWAY_MINUTES',
  }),
  'standing-consent-days': setting({
    kind: amount(0, MAX_STANDING_DAYS, whole),
    first: MAX_STANDING_DAYS,
    label: 'A standing consent lasts at most',
    help: '0: none is offered or kept.',
    unit: 'days',
    isTeams: true,
    earlier: 'PORCH_STANDING_CONSENT_DAYS',
  }),
  'max-file-mb': setting({
    kind: amount(0.001, 10_240),
    first: 256,
    label: 'The largest file',
    help: 'Larger ones are refused before anything of them moves.',
    unit: 'MB',
    isTeams: true,
    earlier: 'PORCH_MAX_FILE_MB',
  }),

  'max-screens': setting({
    kind: amount(1, 20, whole),
    first: 3,
    label: 'Screens at once',
    help: 'So many sessions with a picture one technician is given.',
    isTeams: true,
    earlier: 'PORCH_MAX_SCREENS',
  }),
  'max-chats': setting({
    kind: amount(1, 50, whole),
    first: 5,
    label: 'Chats at once',
    help: 'So many people who wait may write with one technician.',
    isTeams: true,
    earlier: 'PORCH_MAX_CHATS',
  }),
  'wrap-up-seconds': setting({
    kind: amount(0, 3600),
    first: 60,
    label: 'Time to write up',
    help: 'So long a technician is left alone after a session.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_WRAP_UP_SECONDS',
  }),
  'offer-seconds': setting({
    kind: amount(1, 300),
    first: 20,
    label: 'An offer stands for',
    help: 'So long somebody who waits is held before one technician.',
    unit: 's',
    earlier: 'PORCH_OFFER_SECONDS',
  }),
  'handover-seconds': setting({
    kind: amount(1, 600),
    first: 60,
    label: 'A handover stands for',
    help: 'So long a colleague has to say yes or no.',
    unit: 's',
    isTeams: true,
    earlier: 'PORCH_HANDOVER_SECONDS',
  }),
  'max-waiting': setting({
    kind: amount(1, 5_000, whole),
    first: 200,
    label: 'The longest line',
    help: 'When so many wait, no more are taken, and are told so.',
    earlier: 'PORCH_MAX_WAITING',
  }),

  'ticket-if-none': setting({
    kind: oneOf('never', 'at-start', 'at-end'),
    first: 'at-end',
    label: 'A ticket for sessions without one',
    help: 'Once the customer is in, with the outcome, or never.',
    isTeams: true,
    earlier: 'PORCH_TICKET_IF_NONE',
  }),
  'grace-seconds': setting({
    kind: amount(0.1, 3600),
    first: 90,
    label: 'A broken line is waited for',
    help: 'Whoever is gone for longer has left the session.',
    unit: 's',
    earlier: 'PORCH_GRACE_SECONDS',
  }),
  'abandoned-minutes': setting({
    kind: amount(0.01, 10_080),
    first: 30,
    label: 'An abandoned session ends after',
    help: 'One that no technician has been in for so long, and in which nothing happened.',
    unit: 'min',
    earlier: 'PORCH_ABANDONED_MINUTES',
  }),
  'max-entries': setting({
    kind: amount(100, 200_000, whole),
    first: 20_000,
    label: 'Entries of one session',
    help: 'So many its ledger takes, and a tenth as many asides.',
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
