import { TechnicianSafePoints } from '@porch/client';
import { computed } from 'vue';
import { defineTool } from '../console-ability.ts';

/** What their computer was like before something was changed there. */
export const safePointsTool = defineTool({
  name: 'safe-points',
  begin(session) {
    const technician = new TechnicianSafePoints(session.connection);
    return {
      technician,
      mayMake: computed(() => (void session.told.value, session.may('make-safe-points'))),
      close: () => technician.close(),
    };
  },
});
