import { TechnicianRestart, type RestartOutlookThere, type RestartWanted } from '@porch/client';
import type { RestartHow } from '@porch/core';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

export const restartTool = defineTool({
  name: 'restart-and-return',
  begin(session) {
    const technician = new TechnicianRestart(session.connection);
    const outlook = shallowRef<RestartOutlookThere>();
    /** What is wanted, until it has begun or was thought better of. */
    const wanted = shallowRef<RestartWanted>();
    /** Somebody at their computer reads the question. */
    const isAsked = shallowRef(false);
    const slice = computed(() => session.state.value.slices['restart-and-return']);
    return {
      ...{ technician, outlook, wanted, isAsked },
      away: computed(() => slice.value.away),
      agreed: computed(() => slice.value.agreed),
      mayRestart: computed(
        () => (void session.told.value, session.may('restart-computer') && session.isHolderThere.value),
      ),
      ask: () => session.ask('restart-computer'),
      async look(): Promise<void> {
        outlook.value = await technician.look();
      },
      want(how: RestartHow, signsIn: boolean): void {
        wanted.value = technician.wanted(how, signsIn);
      },
      async restart(): Promise<void> {
        if (!wanted.value || !outlook.value) return;
        isAsked.value = true;
        try {
          await technician.restart(wanted.value, outlook.value);
        } finally {
          [isAsked.value, wanted.value] = [false, undefined];
        }
      },
      forget(): void {
        if (wanted.value) technician.drop(wanted.value);
        wanted.value = undefined;
      },
      close: () => technician.close(),
    };
  },
});
