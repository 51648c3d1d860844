import { TechnicianPrograms } from '@porch/client';
import { computed } from 'vue';
import { defineTool } from '../console-ability.ts';

/** What runs on the computer: read only while a list of it is looked at. */
export const programsTool = defineTool({
  name: 'programs',
  begin(session) {
    const technician = new TechnicianPrograms(session.connection);
    return {
      technician,
      mayLook: computed(() => (void session.told.value, session.may('inspect-programs'))),
      mayChange: computed(() => (void session.told.value, session.may('change-programs'))),
      askChange: () => session.ask('change-programs'),
      close: () => technician.close(),
    };
  },
});
