import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** How a computer goes down: as always, coming back with nothing but what the desktop needs, or only the person signs out. */
const restartHows = ['restart', 'bare', 'sign-out'] as const;
export const RestartHow = z.enum(restartHows);
export type RestartHow = z.infer<typeof RestartHow>;

/** What a restart meets. */
const restartHits = [
  'unsaved',
  'session-work',
  'packages',
  'holds',
  'prints',
  'others',
  'battery',
  'disk-key',
  'sign-in',
] as const;
export const RestartHit = z.enum(restartHits);
export type RestartHit = z.infer<typeof RestartHit>;
/** With one of these it does not happen, whoever says yes: it would take something from somebody who is not asked. */
export const stopsRestart = (hit: RestartHit, how: RestartHow): boolean =>
  hit === 'packages' || (hit === 'others' && how !== 'sign-out');

/** How far a computer is on its way back, as it says itself. */
const restartSteps = ['starting', 'at-sign-in'] as const;
export const RestartStep = z.enum(restartSteps);
export type RestartStep = z.infer<typeof RestartStep>;

/** Why it did not happen. */
const notRestartedWhys = ['said-no', 'no-answer', 'refused', 'stayed-up', 'broken-off'] as const;
export const NotRestarted = z.enum(notRestartedWhys);
export type NotRestarted = z.infer<typeof NotRestarted>;

/** What the desk is asked for on a device whose label asks for care. */
const risks = {
  restart: 'restart-and-return/restart',
  bare: 'restart-and-return/bare',
  'sign-out': 'restart-and-return/sign-out',
} as const satisfies Record<RestartHow, string>;
export const restartRiskOf = (how: RestartHow): string => risks[how];
/** Names of permissions; those of later releases are kept. */
export const agreedNames = z.array(z.string().max(60)).max(60);

/** What comes back by itself after a restart: for one technician, and no more than the person said. */
export interface AgreedReturn {
  readonly participantId: string;
  readonly permissions: readonly string[];
}
export interface AwayComputer {
  /** Missing where nobody ordered it: its power was cut, or the person did it themselves. */
  readonly restartId: string | undefined;
  readonly how: RestartHow | undefined;
  readonly step: 'going-down' | RestartStep | 'gone';
  readonly sinceMs: number;
  /** Without a word of it until then somebody should look. */
  readonly lateAtMs: number;
  readonly isLate: boolean;
}
export interface RestartSlice {
  readonly agreed: AgreedReturn | undefined;
  /** Undefined while it is there. */
  readonly away: AwayComputer | undefined;
  /** What the technician's program asks for again after the last return, which the customer's side answers as agreed. */
  readonly toAsk: readonly string[];
  readonly returns: number;
}
const nothing: RestartSlice = { agreed: undefined, away: undefined, toAsk: [], returns: 0 };

/** A restart with the session carried over. */
export const restartAndReturn = defineShape({
  name: 'restart-and-return',
  version: 1,
  since: 4,
  permissions: { 'restart-computer': { shortName: 'restart', isSensitive: true } },
  events: {
    /** What comes back after a restart, as the person said it, or less. */
    'restart-and-return/agreed': { participantId: id, permissions: agreedNames, fact },
    /** It goes down now. Without a participant nobody of the desk wanted it. */
    'restart-and-return/begun': {
      ...{ restartId: id, participantId: id.optional(), how: RestartHow, fact },
      /** The person is signed in once, by itself. */
      signsIn: z.literal(true).optional(),
      lateAtMs: z.int().min(0),
    },
    'restart-and-return/notBegun': { restartId: id, participantId: id, why: NotRestarted, fact },
    /** The line is gone without a word, and the computer was to come back from that, too. */
    'restart-and-return/gone': { lateAtMs: z.int().min(0) },
    'restart-and-return/step': { step: RestartStep, lateAtMs: z.int().min(0) },
    'restart-and-return/late': { minutes: z.int().min(1) },
    'restart-and-return/returned': { permissions: agreedNames, fact },
  },
  initial: nothing,
  evolve: {
    'restart-and-return/agreed': (s, { participantId, permissions }): RestartSlice => ({
      ...s,
      agreed: { participantId, permissions },
    }),
    'restart-and-return/begun': (s, { restartId, how, lateAtMs }, { nowMs }): RestartSlice => ({
      ...s,
      away: { restartId, how, step: 'going-down', sinceMs: nowMs, lateAtMs, isLate: false },
    }),
    'restart-and-return/notBegun': (s, { restartId }): RestartSlice =>
      s.away?.restartId === restartId ? { ...s, away: undefined } : s,
    'restart-and-return/gone': (s, { lateAtMs }, { nowMs }): RestartSlice =>
      s.away ? s : { ...s, away: { ...unordered, step: 'gone', sinceMs: nowMs, lateAtMs } },
    'restart-and-return/step': (s, { step, lateAtMs }, { nowMs }): RestartSlice => ({
      ...s,
      away: { ...(s.away ?? { ...unordered, sinceMs: nowMs }), step, lateAtMs, isLate: false },
    }),
    'restart-and-return/late': (s): RestartSlice => (s.away ? { ...s, away: { ...s.away, isLate: true } } : s),
    'restart-and-return/returned': (s, { permissions }): RestartSlice => ({
      ...s,
      away: undefined,
      toAsk: permissions,
      returns: s.returns + 1,
    }),
  },
  // What ended after the return is not asked for by itself any longer.
  fell: (s, permission, participantId) =>
    s.agreed?.participantId === participantId && s.toAsk.includes(permission)
      ? { ...s, toAsk: s.toAsk.filter((one) => one !== permission) }
      : s,
  left: (s, participantId, wasHolder) =>
    wasHolder ? { ...nothing, returns: s.returns } : s.agreed?.participantId === participantId ? withoutAgreed(s) : s,
  ended: (s) => ({ ...nothing, returns: s.returns }),
  words: (book) => book.restartAndReturn,
  tell: {
    'restart-and-return/agreed': {
      technician: (e, { words }) => words.agreed.technician({ count: e.permissions.length }),
      customer: (e, { words, technician }) =>
        words.agreed.customer({ who: technician(e.participantId), count: e.permissions.length }),
    },
    'restart-and-return/begun': {
      technician: (e, { words, nameOf }) =>
        e.participantId === undefined
          ? words.byThemselves
          : words.begun[e.how]({ who: nameOf(e.participantId) }) + (e.signsIn ? ` ${words.signsIn}` : ''),
      customer: (e, { words, technician }) =>
        e.participantId === undefined
          ? words.byYou
          : words.begun[e.how]({ who: technician(e.participantId) }) + (e.signsIn ? ` ${words.signsInYou}` : ''),
    },
    'restart-and-return/notBegun': {
      technician: (e, { words }) => words.notBegun[e.why],
      customer: (e, { words }) => words.notBegunYou[e.why],
    },
    'restart-and-return/gone': {
      technician: (_e, { words }) => words.gone,
      customer: (_e, { words }) => words.gone,
    },
    'restart-and-return/step': {
      technician: (e, { words }) => words.step[e.step],
      customer: (e, { words }) => words.step[e.step],
    },
    'restart-and-return/late': {
      technician: (e, { words }, s) => words.late[lateStep(s)]({ minutes: e.minutes }),
      customer: (_e, { words }) => words.lateYou,
    },
    'restart-and-return/returned': {
      technician: (e, { words }) => words.returned.technician({ count: e.permissions.length }),
      customer: (e, { words }) => words.returned.customer({ count: e.permissions.length }),
    },
  },
  inStory: ['restart-and-return/begun', 'restart-and-return/gone', 'restart-and-return/returned'],
});

const unordered = { restartId: undefined, how: undefined, isLate: false } as const;
const withoutAgreed = (s: RestartSlice): RestartSlice => ({ ...s, agreed: undefined, toAsk: [] });
/** What to try depends on what was heard last. */
const lateStep = (s: RestartSlice) =>
  s.away?.step === 'at-sign-in' ? 'atSignIn' : s.away?.step === 'starting' ? 'starting' : 'silent';

/** Whether this computer keeps its place however long it is away: it was agreed that it comes back. */
export const isAwaited = ({ agreed }: RestartSlice): boolean => agreed !== undefined;
