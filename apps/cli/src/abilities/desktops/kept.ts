import { RingRefusedThere, TechnicianDesktops } from '@porch/client';
import type { DesktopRow, RingAnswer } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { desktopsCalls } from './calls.ts';

export interface DesktopsNow {
  /** Missing while nobody may see them. */
  readonly desktops: readonly DesktopRow[] | null;
}
export interface Rung {
  readonly desktop: string;
  readonly account: string;
  readonly how: RingAnswer;
}
const LIST_MS = 15_000;

export const keptDesktops = defineKept({
  name: 'desktops',
  calls: desktopsCalls,
  begin(kit) {
    const technician = new TechnicianDesktops(kit.connection, kit.rest, () => kit.changed());
    const list = async (): Promise<readonly DesktopRow[] | undefined> => {
      if (kit.may('call-desktops')) await kit.until(() => technician.rows !== undefined, LIST_MS);
      return technician.rows;
    };
    return { kit, technician, list, close: () => technician.close() };
  },
  answer: {
    desktops: async ({ list }): Promise<DesktopsNow> => ({ desktops: (await list()) ?? null }),
    async ringDesktop({ kit, technician, list }, { who }, _tell, signal): Promise<Rung> {
      kit.need('call-desktops');
      const row = (await list())?.find(({ account, desktop }) => account === who || desktop === who);
      if (!row) throw new RingRefusedThere('it is not there any longer');
      const how = await technician.ring(row.desktop, signal);
      return { desktop: row.desktop, account: row.account, how };
    },
  },
});
