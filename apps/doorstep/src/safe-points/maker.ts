import { idOfProcess, processOf } from '../system/process-table.ts';
import { textOf } from '../system/text-of.ts';

/** A process by its number, when it began, and which start of the computer that was in: numbers come again after each. */
function makerOf(pid: number | 'self'): string | undefined {
  const found = processOf(textOf(`/proc/${pid}/stat`) ?? '');
  const boot = textOf('/proc/sys/kernel/random/boot_id')?.trim() ?? '';
  return found && `${idOfProcess(found)}.${boot}`;
}
/** This program, told apart from every other one before and after it. */
export const ownMaker = makerOf('self') ?? `${process.pid}.0.`;

/** Whether the program that is called this still runs. */
export const isRunning = (maker: string): boolean => {
  const pid = Number(maker.split('.')[0]);
  return Number.isInteger(pid) && pid > 0 && makerOf(pid) === maker;
};
