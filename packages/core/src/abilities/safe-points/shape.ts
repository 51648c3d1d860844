import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id } from '../../ability/fields.ts';

export interface PointInSession {
  readonly byId: string;
  /** Missing once erased. */
  readonly name: string | undefined;
  readonly isUsed: boolean;
  /** It stays after the session until then. */
  readonly keptUntilMs: number | undefined;
}
export type SafePointsSlice = Readonly<Record<string, PointInSession>>;

const personal = z.strictObject({ name: z.string().max(80) }).optional();
const nameOfPoint = (e: { readonly personal?: { readonly name: string } | undefined }) => e.personal?.name ?? '…';
const changed = (s: SafePointsSlice, pointId: string, change: Partial<PointInSession>): SafePointsSlice => {
  const known = s[pointId];
  return known ? { ...s, [pointId]: { ...known, ...change } } : s;
};

/** What a computer was like before something was changed: saved, compared, gone back to in one step. */
export const safePoints = defineShape({
  name: 'safe-points',
  version: 1,
  since: 4,
  permissions: { 'make-safe-points': { shortName: 'safe' } },
  events: {
    'safe-points/made': {
      ...{ pointId: id, participantId: id, files: count, sizeBytes: count, services: count, packages: count },
      ...{ fact, personal },
    },
    /** It was gone back to; not all of it could be where it is not whole. */
    'safe-points/undone': { pointId: id, participantId: id, isWhole: z.boolean(), fact, personal },
    /** The person at the computer let it stay there after the session. */
    'safe-points/kept': { pointId: id, participantId: id, untilMs: count, fact, personal },
    'safe-points/dropped': { pointId: id, participantId: id, fact, personal },
  },
  initial: {} as SafePointsSlice,
  evolve: {
    'safe-points/made': (s, { pointId, participantId, personal: own }): SafePointsSlice => ({
      [pointId]: { byId: participantId, name: own?.name, isUsed: false, keptUntilMs: undefined },
      ...s,
    }),
    'safe-points/undone': (s, { pointId }) => changed(s, pointId, { isUsed: true }),
    'safe-points/kept': (s, { pointId, untilMs }) => changed(s, pointId, { keptUntilMs: untilMs }),
    'safe-points/dropped': (s, { pointId }) => {
      const { [pointId]: _dropped, ...others } = s;
      return others;
    },
  },
  words: (book) => book.safePoints,
  tell: {
    'safe-points/made': {
      technician: (e, { words, speech, nameOf }) =>
        words.told.made({
          ...{ who: nameOf(e.participantId), name: nameOfPoint(e), files: e.files, size: speech.bytes(e.sizeBytes) },
          ...{ services: e.services, packages: e.packages },
        }),
      customer: (e, { words, speech, technician }) =>
        words.told.made({
          ...{
            who: technician(e.participantId),
            name: nameOfPoint(e),
            files: e.files,
            size: speech.bytes(e.sizeBytes),
          },
          ...{ services: e.services, packages: e.packages },
        }),
    },
    'safe-points/undone': {
      technician: (e, { words, nameOf }) =>
        words.told[e.isWhole ? 'wentBack' : 'partly']({ who: nameOf(e.participantId), name: nameOfPoint(e) }),
      customer: (e, { words, technician }) =>
        words.told[e.isWhole ? 'wentBack' : 'partly']({ who: technician(e.participantId), name: nameOfPoint(e) }),
    },
    'safe-points/kept': {
      technician: (e, { words, speech }) => words.told.kept({ name: nameOfPoint(e), until: speech.date(e.untilMs) }),
      customer: (e, { words, speech }) => words.told.keptHere({ name: nameOfPoint(e), until: speech.date(e.untilMs) }),
    },
    'safe-points/dropped': {
      technician: (e, { words, nameOf }) => words.told.dropped({ who: nameOf(e.participantId), name: nameOfPoint(e) }),
      customer: (e, { words, technician }) =>
        words.told.dropped({ who: technician(e.participantId), name: nameOfPoint(e) }),
    },
  },
  inStory: ['safe-points/made', 'safe-points/undone', 'safe-points/kept'],
});
