import { TechnicianScreenshots } from '@porch/client';
import { computed } from 'vue';
import { defineTool } from '../console-ability.ts';

/** Screenshots that are taken at the source, and given to the customer. */
export const screenshotTool = defineTool({
  name: 'screenshot',
  begin(session) {
    const technician = new TechnicianScreenshots(session.connection);
    return {
      technician,
      mayTake: computed(() => (void session.told.value, session.may('take-screenshot'))),
      close: () => technician.close(),
    };
  },
});
