import {
  customerPermissionWords,
  formatBytes,
  hasWhatItNeeds,
  rulesOf,
  type Language,
  type OpenAsk,
  type Permission,
  type SessionState,
  purposeForCustomer,
  listOf,
} from '@porch/core';
import type { BannerWords, ProgramWindows, Question } from '../desktop/desktop.ts';
import { doorstepWords, type DoorstepWords } from './words.ts';

/* What Doorstep asks and says, in the customer's language. */

const firstName = (name: string) => name.split(' ')[0] ?? name;
const hints = (w: DoorstepWords) => ({ readFirst: w.readFirst, onlyYou: w.onlyYou });

const clockOf = (atMs: number, language: Language) =>
  new Intl.DateTimeFormat(language, { hour: '2-digit', minute: '2-digit' }).format(atMs);

/** Which service this program talks to, and which one its publisher made it for, as hosts. */
export interface ServicePlace {
  readonly address: string;
  readonly madeFor?: string | undefined;
}
const isElsewhere = ({ address, madeFor }: ServicePlace) => madeFor !== undefined && madeFor !== address;
/** Nobody who asks can choose this line, and a program that was led elsewhere says so. */
const placeWords = (place: ServicePlace, w: DoorstepWords): string =>
  isElsewhere(place) ? w.notMadeFor(place.madeFor ?? '', place.address) : w.talksTo(place.address);

export function questionForAsk(
  state: SessionState,
  ask: OpenAsk,
  deskName: string,
  nowMs: number,
  place?: ServicePlace,
): Question {
  const w = doorstepWords[state.language];
  const name = state.participants[ask.participantId]?.name ?? w.technician;
  const wants = listOf(
    ask.permissions.map((p) => customerPermissionWords[state.language][p]),
    state.language,
  );
  const { handover } = state;
  const isTakingOver = state.participants[ask.participantId]?.technicianId === handover?.toTechnicianId;
  const previous = handover && isTakingOver ? state.participants[handover.fromParticipantId]?.name : undefined;
  const purpose = purposeForCustomer(state, state.language);
  const why = state.ticketRef ? w.forTicket(state.ticketRef, purpose) : purpose;
  const warnings: string[] = [];
  if (ask.permissions.includes('view-screen')) warnings.push(w.seesAll(firstName(name)));
  if (ask.permissions.includes('control-input')) warnings.push(w.yourHandsWin);
  if (ask.permissions.includes('fetch-files')) warnings.push(w.leaves);
  if (ask.permissions.includes('work-alone'))
    warnings.push(w.alone(clockOf(nowMs + (rulesOf('work-alone').longestMs ?? 0), state.language)));
  return {
    title: previous ? w.takesOver(name, previous) : w.asks(name, deskName),
    lines: [
      w.may(firstName(name), wants),
      why,
      ...warnings,
      ...(place && isElsewhere(place) ? [placeWords(place, w)] : []),
      ...(ask.permissions.length > 1 ? [w.leaveOut] : []),
    ].filter(Boolean),
    yes: w.yes,
    no: w.no,
    ...hints(w),
    ...(ask.permissions.length > 1
      ? { choices: ask.permissions.map((p) => ({ label: customerPermissionWords[state.language][p], isOn: true })) }
      : {}),
    ...(ask.permissions.includes('view-screen') ? { more: w.hideBeforehand } : {}),
  };
}

/** More programs than this do not fit; the first ones are those on top. */
const MAX_CHOICES = 8;

export function hideQuestion(programs: readonly ProgramWindows[], language: Language): Question {
  const w = doorstepWords[language];
  return {
    title: w.hideTitle,
    lines: [programs.length ? w.hideNote : w.nothingOpen],
    yes: w.done,
    no: w.cancel,
    ...hints(w),
    choices: programs.slice(0, MAX_CHOICES).map(({ title, isHidden }) => ({ label: title, isOn: isHidden })),
  };
}

/** Of what stayed ticked, what can stand: nothing without what it needs. */
export function chosenOf(
  ask: OpenAsk,
  ticked: readonly boolean[],
  has: (permission: Permission) => boolean,
): Permission[] {
  const chosen = ask.permissions.filter((_, i) => ticked[i] ?? true);
  return chosen.filter((permission) => hasWhatItNeeds(permission, (needed) => chosen.includes(needed) || has(needed)));
}

export function questionForFile(technician: string, fileName: string, sizeBytes: number, language: Language): Question {
  const w = doorstepWords[language];
  return {
    title: w.givesFile(technician),
    lines: [w.take(fileName, formatBytes(sizeBytes)), w.intoDownloads],
    yes: w.yes,
    no: w.no,
    ...hints(w),
  };
}

export function callQuestion(deskName: string, deskPhone: string, language: Language): Question {
  const w = doorstepWords[language];
  return {
    title: w.whoCalled,
    lines: [w.pretenders, w.stopHere(deskName, deskPhone)],
    yes: w.iCalled,
    no: w.theyCalled,
    ...hints(w),
  };
}

export function acceptQuestion(state: SessionState, deskName: string, place: ServicePlace): Question {
  const w = doorstepWords[state.language];
  const purpose = purposeForCustomer(state, state.language);
  return {
    title: w.wantsToHelp(state.technicianName ?? w.technician, deskName),
    lines: [state.ticketRef ? w.ticket(state.ticketRef, purpose) : purpose, w.nothingYet, placeWords(place, w)],
    yes: w.begin,
    no: w.doNotBegin,
    ...hints(w),
  };
}

export function questionForFetch(
  about: { readonly technician: string; readonly path: string; readonly sizeBytes: number },
  language: Language,
): Question {
  const w = doorstepWords[language];
  return {
    title: w.wantsFile(about.technician || w.technician),
    lines: [w.fetch(about.path, formatBytes(about.sizeBytes))],
    yes: w.yes,
    no: w.no,
    ...hints(w),
    choices: [{ label: w.anyInFolder, isOn: false }],
  };
}

export function compareQuestion(
  technicianName: string,
  words: readonly string[],
  language: Language,
  tries = 1,
): Question {
  const w = doorstepWords[language];
  const first = firstName(technicianName);
  return {
    title: w.sameWords(first),
    lines: [words.join(' · '), w.readAloud(first), ...(tries > 1 ? [w.nthWords(tries)] : [])],
    yes: w.same,
    no: w.other,
    ...hints(w),
  };
}

/** What the banner says just now; undefined when nobody may do anything. */
export function bannerWords(
  state: SessionState,
  isControlled: boolean,
  may: (permission: 'view-screen' | 'control-input', signKey: string) => boolean,
  areWordsCompared: (participantId: string) => boolean,
  { isWallpaperHidden = false, isPrivate = false, isAway = false } = {},
): BannerWords | undefined {
  const w = doorstepWords[state.language];
  const lookers = Object.values(state.participants).filter(
    (p) => p.role === 'technician' && !p.isGone && may('view-screen', p.signKey),
  );
  if (!lookers.length) return undefined;
  const workers = lookers.filter((p) => may('control-input', p.signKey));
  const who = listOf(
    lookers.map((p) => `${p.name ?? w.technician}${areWordsCompared(p.id) ? '' : ` (${w.notCompared})`}`),
    state.language,
  );
  const seen = workers.length ? (isControlled ? w.seesAndUses : w.seesAndMayUse) : w.sees;
  const what = isPrivate ? w.isPrivate : isAway && workers.length ? `${w.sees}; ${w.isAway}` : seen;
  return {
    who,
    what: isWallpaperHidden && !isPrivate ? `${what}; ${w.wallpaperHidden}` : what,
    stop: w.stop,
    hide: w.hide,
    private: isPrivate ? w.goOn : w.private,
    control: w.control,
  };
}
