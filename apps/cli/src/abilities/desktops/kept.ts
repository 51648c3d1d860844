import { TechnicianDesktops } from '@porch/client';
import type { DesktopRow, RingAnswer } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { desktopsCalls } from './calls.ts';

export interface DesktopsNow {
  /** Missing while nobody may see them. */
  readonly desktops: readonly DesktopRow[] | null;
}
const LIST_MS = 15_000;

export const keptDesktops = defineKept({
  name: 'desktops',
  calls: desktopsCalls,
  begin(kit) {
    const technician = new TechnicianDesktops(kit.connection, kit.rest, () => kit.changed());
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    async desktops({ kit, technician }): Promise<DesktopsNow> {
      if (kit.may('call-desktops')) await kit.until(() => technician.rows !== undefined, LIST_MS);
      return { desktops: technician.rows ?? null };
    },
    async ringDesktop({ kit, technician }, { desktop }, _tell, signal): Promise<RingAnswer> {
      kit.need('call-desktops');
      return technician.ring(desktop, signal);
    },
  },
});
