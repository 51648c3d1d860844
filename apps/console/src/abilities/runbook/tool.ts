import { TechnicianRunbook, type LookedAt, type RunNow } from '@porch/client';
import type { RunbookAction, RunbookValues } from '@porch/core';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** An action that somebody has before them, until they choose another one: it goes on while its panel is closed. */
export interface ActionInHand {
  readonly id: string;
  readonly action: RunbookAction;
  readonly values: RunbookValues;
  /** Once somebody looked at what would be done, or began an instruction. */
  readonly looked?: LookedAt;
  readonly instructionId?: string;
  readonly now?: RunNow;
  readonly begunAtMs?: number;
}

export const runbookTool = defineTool({
  name: 'runbook',
  begin(session) {
    const technician = new TechnicianRunbook(session.connection, session.rest);
    const inHand = shallowRef<ActionInHand>();
    let endFollowing = () => undefined as void;
    const change = (more: Partial<ActionInHand>) => {
      if (inHand.value) inHand.value = { ...inHand.value, ...more };
    };
    function put(next?: ActionInHand): void {
      endFollowing();
      endFollowing = () => undefined;
      const { looked, now } = inHand.value ?? {};
      if (looked && !now) technician.drop(looked);
      inHand.value = next;
    }
    return {
      technician,
      inHand,
      mayRun: computed(() => (void session.told.value, session.may('run-runbook'))),
      put,
      ask: () => session.ask('run-runbook'),
      async look(values: RunbookValues): Promise<void> {
        const { id, action } = inHand.value ?? {};
        if (id === undefined || !action) return;
        const looked = await technician.look(id, action, values);
        if (inHand.value?.id === id) change({ values, looked });
        else technician.drop(looked);
      },
      run(): void {
        const { looked } = inHand.value ?? {};
        if (!looked) return;
        change({ now: { text: '', isCut: false }, begunAtMs: Date.now() });
        endFollowing = technician.run(looked, (now) => change({ now }));
      },
      async beginInstruction(): Promise<void> {
        const { id } = inHand.value ?? {};
        if (id !== undefined) change({ instructionId: (await technician.choose(id)).runId });
      },
      close: () => {
        endFollowing();
        technician.close();
      },
    };
  },
});
