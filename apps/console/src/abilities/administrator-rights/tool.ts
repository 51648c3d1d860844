import { TechnicianRights, type RightsWanted, type RightsWays } from '@porch/client';
import { rightsOf, type RightsWay } from '@porch/core';
import { AppError } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

export const rightsTool = defineTool({
  name: 'administrator-rights',
  begin(session) {
    const technician = new TechnicianRights(session.connection, session.rest);
    const ways = shallowRef<RightsWays>();
    /** What is asked for, and in which way, until it is raised or thought better of. */
    const asked = shallowRef<RightsWanted & { readonly way: RightsWay }>();
    /** A second person has to say yes first. */
    const needsSecond = shallowRef(false);
    /** Somebody at their computer is typing a password. */
    const isTyped = shallowRef(false);
    const raised = computed(() =>
      rightsOf(session.state.value.slices['administrator-rights'], session.connection.participantId),
    );
    return {
      ...{ technician, ways, asked, needsSecond, isTyped, raised },
      mayRaise: computed(() => (void session.told.value, session.may('raise-rights'))),
      ask: () => session.ask('raise-rights'),
      async look(): Promise<void> {
        ways.value = await technician.ways();
      },
      async raise(what: string, way: RightsWay): Promise<void> {
        const { installed } = ways.value ?? { installed: undefined };
        const same = asked.value?.what === what && asked.value.way === way ? asked.value : undefined;
        const wanted = same ?? { ...technician.wanted(what), way };
        asked.value = wanted;
        isTyped.value = way === 'password';
        try {
          await technician.raise(wanted, way, { installed });
          [asked.value, needsSecond.value] = [undefined, false];
        } catch (error) {
          if (error instanceof AppError && error.code === 'SECOND_YES_MISSING') needsSecond.value = true;
          else {
            // Each number is for one try.
            if (!ways.value?.isCareful) asked.value = undefined;
            throw error;
          }
        } finally {
          isTyped.value = false;
        }
      },
      forget(): void {
        [asked.value, needsSecond.value] = [undefined, false];
      },
      lower(): void {
        if (raised.value) technician.lower(raised.value.raiseId);
      },
      close: () => technician.close(),
    };
  },
});
