import { clearedAct, ruleOfLabel } from '@porch/core';
import type { DeskFacts, Kit } from './kit.ts';

/** What the desk says of acts on a device with this one's label; undefined where it says nothing. */
export const careHere = ({ desk, connection }: Kit): DeskFacts['carefulLabels'][number] | undefined =>
  ruleOfLabel(desk.carefulLabels, connection.state.deviceLabel);

/** Whether the ledger has the desk's leave for this very act, under the name that was read, by this technician. */
export const isCleared = (
  { connection }: Kit,
  { name, ...asked }: { readonly actId: string; readonly act: string; readonly name: string; readonly byId: string },
): boolean => clearedAct(connection.state.slices['risky-acts'], asked)?.name === name;
