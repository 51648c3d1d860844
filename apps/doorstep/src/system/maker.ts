import { idOfProcess, processOf } from './process-table.ts';
import { textOf } from './text-of.ts';

/** Another with each start of the computer. */
export const bootId = (): string => textOf('/proc/sys/kernel/random/boot_id')?.trim() ?? '';

/** A process by its number, when it began, and which start of the computer that was in: numbers come again after each. */
function makerOf(pid: number | 'self'): string | undefined {
  const found = processOf(textOf(`/proc/${pid}/stat`) ?? '');
  return found && `${idOfProcess(found)}.${bootId()}`;
}
/** This program, told apart from every other one before and after it. */
export const ownMaker = makerOf('self') ?? `${process.pid}.0.`;

/** Whether the program that is called this still runs. */
export const isRunning = (maker: string): boolean => {
  const pid = Number(maker.split('.')[0]);
  return Number.isInteger(pid) && pid > 0 && makerOf(pid) === maker;
};
