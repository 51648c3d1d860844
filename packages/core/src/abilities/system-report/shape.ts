import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';

export interface ReadReport {
  readonly readById: string;
  readonly isKept: boolean;
}
export type SystemReportSlice = Readonly<Record<string, ReadReport>>;

/** What the computer says of itself: read, shown, compared with what it said before, kept with the session. */
export const systemReport = defineShape({
  name: 'system-report',
  version: 1,
  since: 4,
  permissions: { 'read-system-report': { shortName: 'report' } },
  events: {
    /** The customer's side began to read one for a technician. */
    'system-report/read': { reportId: id, participantId: id, fact },
    /** It lies with the session now; its hash says what. */
    'system-report/kept': { reportId: id, sha256 },
  },
  initial: {} as SystemReportSlice,
  evolve: {
    'system-report/read': (s, e): SystemReportSlice => ({
      [e.reportId]: { readById: e.participantId, isKept: false },
      ...s,
    }),
    'system-report/kept': (s, e) => {
      const known = s[e.reportId];
      return known ? { ...s, [e.reportId]: { ...known, isKept: true } } : s;
    },
  },
  words: (book) => book.systemReport,
  tell: {
    'system-report/read': {
      technician: (e, { words, nameOf }) => words.technician.read({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.read({ who: technician(e.participantId) }),
    },
    'system-report/kept': {
      technician: (e, { words, nameOf }, s) =>
        words.technician.kept({ who: nameOf(s[e.reportId]?.readById ?? e.by), hash: e.sha256.slice(0, 12) }),
      customer: (e, { words, technician }, s) =>
        words.customer.kept({ who: technician(s[e.reportId]?.readById ?? e.by) }),
    },
  },
  inStory: ['system-report/read'],
});
