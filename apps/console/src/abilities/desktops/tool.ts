import { TechnicianDesktops } from '@porch/client';
import type { DesktopRow, RingAnswer } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** Who is signed in at their computer, and who of them is asked in. */
export const desktopsTool = defineTool({
  name: 'desktops',
  begin(session) {
    const rows = shallowRef<readonly DesktopRow[]>();
    const technician = new TechnicianDesktops(session.connection, session.rest, () => (rows.value = technician.rows));
    /** Who is being asked, until they answer. */
    const ringing = shallowRef<DesktopRow>();
    const answered = shallowRef<{ readonly account: string; readonly how: RingAnswer }>();
    let stops = new AbortController();
    return {
      ...{ rows, ringing, answered },
      mayCall: computed(() => (void session.told.value, session.may('call-desktops') && session.isHolderThere.value)),
      ask: () => session.ask('call-desktops'),
      async ring(row: DesktopRow): Promise<void> {
        stops = new AbortController();
        [ringing.value, answered.value] = [row, undefined];
        try {
          answered.value = { account: row.account, how: await technician.ring(row.desktop, stops.signal) };
        } finally {
          ringing.value = undefined;
        }
      },
      stop: () => stops.abort(),
      close: () => technician.close(),
    };
  },
});
