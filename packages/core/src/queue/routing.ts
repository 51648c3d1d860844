import type { Language } from '../language.ts';

/** What somebody in the queue wants: a screen looked at, or words alone. Technicians have limits for each. */
export type Wanted = 'screen' | 'chat';

export interface RoutedEntry {
  readonly id: string;
  readonly sinceMs: number;
  readonly language: Language;
  readonly topic: string;
  /** Whose work the topic is, and what one has to know for it; missing: anybody's. */
  readonly team?: string | undefined;
  readonly skills: readonly string[];
  readonly wants: Wanted;
  /** Who said "not now" to it, or did not answer. */
  readonly passedBy: readonly string[];
  readonly offer: { readonly technicianId: string; readonly endsAtMs: number } | undefined;
}

export interface RoutedTechnician {
  readonly id: string;
  readonly languages: readonly Language[];
  /** Topics they know; none: all. */
  readonly topics: readonly string[];
  readonly team: string;
  readonly skills: readonly string[];
  /** At a console or a terminal, and not away. */
  readonly isHere: boolean;
  readonly wrapUpUntilMs: number;
  readonly screens: number;
  readonly chats: number;
  readonly limits: { readonly screens: number; readonly chats: number };
  /** When they were last given somebody: the longest idle goes first. */
  readonly lastGivenMs: number;
}

export interface RoutingRules {
  readonly offerMs: number;
  /** Waiting this long, an entry may go to whoever is here, though they know other topics. */
  readonly anyTopicAfterMs: number;
  /** Waiting this long, it may leave its team. */
  readonly anyTeamAfterMs: number;
  /** Waiting this long, it may go to somebody who does not speak its language: better than nobody; nor knows all that its topic asks for. */
  readonly anyLanguageAfterMs: number;
}

export const defaultRoutingRules: RoutingRules = {
  offerMs: 20_000,
  anyTopicAfterMs: 3 * 60_000,
  anyTeamAfterMs: 5 * 60_000,
  anyLanguageAfterMs: 10 * 60_000,
};

/** What speaks for or against somebody. Those with a team or skill name it; one counts. */
export const routingWords = [
  'speaks',
  'speaks-not',
  'knows-topic',
  'every-topic',
  'other-topics',
  'your-team',
  'team',
  'knows',
  'knows-not',
  'open',
  'away',
  'wrapping-up',
  'enough-screens',
  'enough-chats',
  'another-language',
  'another-topic',
  'needs',
  'not-routed',
] as const;
export type RoutingWord = (typeof routingWords)[number];
const allWords: ReadonlySet<string> = new Set(routingWords);
export const isRoutingWord = (word: string): word is RoutingWord => allWords.has(word);

/** `word` is one of a later release where this one does not know it. */
export interface RoutingReason {
  readonly word: string;
  readonly name?: string | undefined;
  readonly count?: number | undefined;
}
const reason = (word: RoutingWord, about: Omit<RoutingReason, 'word'> = {}): RoutingReason => ({ word, ...about });

/** How an entry fits a technician, in words for them. Undefined: it is not for them, and `hurdles` says why. */
export interface Fit {
  readonly score: number;
  readonly reasons: readonly RoutingReason[];
}

const speaks = (entry: RoutedEntry, t: RoutedTechnician) => t.languages.includes(entry.language);
const knows = (entry: RoutedEntry, t: RoutedTechnician) => !t.topics.length || t.topics.includes(entry.topic);

const isOfTeam = (entry: RoutedEntry, t: RoutedTechnician) => entry.team === undefined || entry.team === t.team;
const lackingSkills = (entry: RoutedEntry, t: RoutedTechnician) =>
  entry.skills.filter((skill) => !t.skills.includes(skill));

/** Why a technician is not offered this entry now; empty when they could be. */
export function hurdles(entry: RoutedEntry, t: RoutedTechnician, rules: RoutingRules, nowMs: number): RoutingReason[] {
  const waitedMs = nowMs - entry.sinceMs;
  const found: RoutingReason[] = [];
  if (!t.isHere) found.push(reason('away'));
  if (nowMs < t.wrapUpUntilMs) found.push(reason('wrapping-up'));
  if (entry.wants === 'screen' ? t.screens >= t.limits.screens : t.chats >= t.limits.chats)
    found.push(reason(entry.wants === 'screen' ? 'enough-screens' : 'enough-chats'));
  if (!speaks(entry, t) && waitedMs < rules.anyLanguageAfterMs) found.push(reason('another-language'));
  if (!knows(entry, t) && waitedMs < rules.anyTopicAfterMs) found.push(reason('another-topic'));
  if (!isOfTeam(entry, t) && waitedMs < rules.anyTeamAfterMs) found.push(reason('team', { name: entry.team ?? '' }));
  const lacking = lackingSkills(entry, t);
  if (lacking.length && waitedMs < rules.anyLanguageAfterMs) found.push(reason('needs', { name: lacking.join(', ') }));
  return found;
}

/** The reasons a person reads when they pick by hand or are offered somebody. */
export function fitOf(entry: RoutedEntry, t: RoutedTechnician, nowMs: number): Fit {
  const busy = (t.screens + t.chats) / (t.limits.screens + t.limits.chats);
  const idleMs = Math.max(0, nowMs - t.lastGivenMs);
  const reasons = [
    reason(speaks(entry, t) ? 'speaks' : 'speaks-not'),
    reason(knows(entry, t) ? (t.topics.length ? 'knows-topic' : 'every-topic') : 'other-topics'),
    ...(entry.team === undefined ? [] : [reason(isOfTeam(entry, t) ? 'your-team' : 'team', { name: entry.team })]),
    ...entry.skills.map((name) => reason(t.skills.includes(name) ? 'knows' : 'knows-not', { name })),
    reason('open', { count: t.screens + t.chats }),
  ];
  // Skills before language, language before team, then topic, load, and who was idle longest: each outweighs all after it.
  const score =
    (lackingSkills(entry, t).length ? 0 : 32) +
    (speaks(entry, t) ? 16 : 0) +
    (isOfTeam(entry, t) ? 8 : 0) +
    (knows(entry, t) ? (t.topics.length ? 4 : 3) : 0) +
    (1 - busy) +
    0.5 * (idleMs / (idleMs + 600_000));
  return { score, reasons };
}

export interface Offer {
  readonly entryId: string;
  readonly technicianId: string;
  readonly endsAtMs: number;
}
export interface Round {
  /** Offers that nobody answered in time: they pass on, and their technician counts as away until they say otherwise. */
  readonly lapsed: readonly { readonly entryId: string; readonly technicianId: string }[];
  readonly offers: readonly Offer[];
}

/**
 * One round of routing: who waits longest is looked after first, so nobody is overtaken by somebody with the same
 * needs. Each technician holds one offer at a time, and only for work they have room for. Whoever was passed by
 * everybody who could is offered round again.
 */
export function routeQueue(
  entries: readonly RoutedEntry[],
  technicians: readonly RoutedTechnician[],
  rules: RoutingRules,
  nowMs: number,
): Round {
  const lapsed = entries.flatMap((e) =>
    e.offer && nowMs >= e.offer.endsAtMs ? [{ entryId: e.id, technicianId: e.offer.technicianId }] : [],
  );
  const missed = new Set(lapsed.map((l) => l.technicianId));
  const busy = new Set(entries.flatMap((e) => (e.offer && nowMs < e.offer.endsAtMs ? [e.offer.technicianId] : [])));
  const offers: Offer[] = [];
  const open = entries
    .filter((e) => !e.offer || nowMs >= e.offer.endsAtMs)
    .sort((a, b) => a.sinceMs - b.sinceMs || (a.id < b.id ? -1 : 1));
  for (const entry of open) {
    const passed = new Set([
      ...entry.passedBy,
      ...lapsed.filter((l) => l.entryId === entry.id).map((l) => l.technicianId),
    ]);
    const able = technicians.filter(
      (t) => !busy.has(t.id) && !missed.has(t.id) && !hurdles(entry, t, rules, nowMs).length,
    );
    const fresh = able.filter((t) => !passed.has(t.id));
    const best = (fresh.length ? fresh : able)
      .map((t) => ({ t, score: fitOf(entry, t, nowMs).score }))
      .sort((a, b) => b.score - a.score || (a.t.id < b.t.id ? -1 : 1))[0];
    if (!best) continue;
    busy.add(best.t.id);
    offers.push({ entryId: entry.id, technicianId: best.t.id, endsAtMs: nowMs + rules.offerMs });
  }
  return { lapsed, offers };
}
