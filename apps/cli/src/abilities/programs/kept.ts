import { RefusedThere, TechnicianPrograms, type PreparedAct, type WatchedList } from '@porch/client';
import { AppError } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { awaitLeave } from '../leave-kept.ts';
import { programsCalls } from './calls.ts';

/** As long as the slowest list may take there, and a little. */
const LIST_MS = 35_000;

export const keptPrograms = defineKept({
  name: 'programs',
  calls: programsCalls,
  begin(kit) {
    const technician = new TechnicianPrograms(kit.connection);
    return { kit, technician, prepared: new Map<string, PreparedAct>(), close: () => technician.close() };
  },
  answer: {
    /** Once whole: whoever wants to see it change asks again. */
    async programs({ kit, technician }, { list }) {
      kit.need('inspect-programs');
      let now: WatchedList | undefined;
      const stop = technician.watch(list, (coming) => {
        if (!coming.isHalf) now = coming;
        kit.changed();
      });
      try {
        await kit.until(() => now !== undefined, LIST_MS);
      } finally {
        stop();
      }
      const last = now;
      if (!last) throw new AppError('NO_CONSENT_HOLDER');
      if (last.refused !== undefined) throw new RefusedThere(last.refused);
      return {
        list,
        rows: [...last.rows.values()],
        count: last.count,
        ...(last.missing ? { missing: last.missing } : {}),
      };
    },
    async prepareOnProgram({ kit, technician, prepared }, { act, target }) {
      kit.need('change-programs');
      const one = await technician.prepare(act, target);
      prepared.set(one.actId, one);
      return one;
    },
    /** Resolves with what the desk says; a second person is waited for. */
    async askLeave({ kit, technician, prepared }, { actId, reason }) {
      const one = prepared.get(actId);
      if (!one) throw new RefusedThere('it was looked at too long ago');
      await technician.askLeave(one, reason);
      return awaitLeave(kit, actId);
    },
    async actOnProgram({ technician, prepared }, { actId, isDone }) {
      const one = prepared.get(actId);
      prepared.delete(actId);
      if (!one) throw new RefusedThere('it was looked at too long ago');
      if (!isDone) {
        technician.drop(one);
        return {};
      }
      return technician.act(one);
    },
  },
});
