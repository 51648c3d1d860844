import { RefusedThere, TechnicianRunbook, type LookedAt, type RunNow } from '@porch/client';
import { isOver } from '@porch/core';
import { defineKept } from '../cli-ability.ts';
import { awaitLeave } from '../leave-kept.ts';
import { runbookCalls } from './calls.ts';

/** The longest that any action may take, and a little. */
const RUN_MS = 3_700_000;

export const keptRunbook = defineKept({
  name: 'runbook',
  calls: runbookCalls,
  begin(kit) {
    const technician = new TechnicianRunbook(kit.connection, kit.rest);
    const looked = new Map<string, LookedAt>();
    const need = (runId: string): LookedAt => {
      const one = looked.get(runId);
      if (!one) throw new RefusedThere('it was looked at too long ago');
      return one;
    };
    return { kit, technician, looked, running: new Set<string>(), need, close: () => technician.close() };
  },
  answer: {
    async lookAtAction({ kit, technician, looked }, { actionId, title, values }) {
      kit.need('run-runbook');
      const one = await technician.look(actionId, { title }, values);
      looked.set(one.runId, one);
      return one;
    },
    /** Resolves with what the desk says; a second person is waited for. */
    async askLeaveToRun({ kit, technician, need }, { runId, reason }) {
      await technician.askLeave(need(runId), reason);
      return awaitLeave(kit, runId);
    },
    /** Tells what it prints as it comes; resolves with how it ended. */
    async runAction({ kit, technician, looked, running, need }, { runId }, tell) {
      const one = need(runId);
      looked.delete(runId);
      let now: RunNow = { text: '', isCut: false };
      running.add(runId);
      const end = technician.run(one, (next) => {
        if (next.text.length > now.text.length) tell(next.text.slice(now.text.length));
        now = next;
        kit.changed();
      });
      // Without leave nobody there may say any longer how it ended; that it did they see to themselves.
      const isLeaveOver = () => isOver(kit.connection.state) || !kit.may('run-runbook');
      const isDone = () => now.ended !== undefined || now.refused !== undefined;
      try {
        await kit.until(() => isDone() || isLeaveOver(), RUN_MS);
      } finally {
        running.delete(runId);
        end();
      }
      if (now.refused !== undefined) throw new RefusedThere(now.refused);
      if (!now.ended) throw new RefusedThere('it is not allowed any longer');
      return { ...now.ended, isCut: now.isCut };
    },
    stopAction({ technician, running }) {
      for (const runId of running) technician.stop({ runId });
      return Promise.resolve({ stopped: running.size });
    },
    dropAction({ technician, looked }, { runId }) {
      looked.delete(runId);
      technician.drop({ runId });
      return Promise.resolve({});
    },
    async tickStep({ kit, technician }, { actionId, step, isDone }) {
      const { runbook } = kit.connection.state.slices;
      const begun = Object.entries(runbook).find(([, run]) => run.actionId === actionId)?.[0];
      const runId = begun ?? (await technician.choose(actionId)).runId;
      await technician.tick(runId, step, isDone);
      const run = kit.connection.state.slices.runbook[runId];
      return { runId, ticked: run?.ticked ?? [], steps: run?.steps ?? 0 };
    },
  },
});
