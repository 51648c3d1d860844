import type { PartOf } from '@porch/core';
import { z } from 'zod';
import { readProcessTable, TICKS_A_SECOND, upTicks, type Process } from './process-table.ts';
import { runCommand } from './run-command.ts';
import { needSystemd } from './systemd.ts';
import { short } from './text-of.ts';

const MAX_FAILED = 24;
const TOP = 5;

const Units = z.array(z.looseObject({ unit: z.string(), active: z.string(), sub: z.string() }));

/** systemctl(1), `list-units --output=json`. */
export function servicesIn(json: string): PartOf<'services'> {
  const units = Units.parse(JSON.parse(json));
  const failed = units
    .filter(({ active }) => active === 'failed')
    .map(({ unit }) => short(unit.replace(/\.service$/, '')));
  return { running: units.filter(({ sub }) => sub === 'running').length, failed: failed.slice(0, MAX_FAILED) };
}
export async function readServices(signal: AbortSignal): Promise<PartOf<'services'>> {
  needSystemd();
  return servicesIn(
    await runCommand('systemctl', ['list-units', '--type=service', '--all', '--output=json', '--no-pager'], signal),
  );
}

/** Those that worked most since they began, and those that hold most; kernel threads hold nothing and are left out. */
export function busiest(processes: readonly Process[], upTicks: number): PartOf<'processes'>['top'] {
  const own = processes.filter(({ memoryBytes }) => memoryBytes > 0);
  const cpuPercent = ({ ticks, startedTicks }: Process) =>
    Math.round((ticks / Math.max(TICKS_A_SECOND, upTicks - startedTicks)) * 1_000) / 10;
  const by = (order: (a: Process, b: Process) => number) => [...own].sort(order).slice(0, TOP);
  const top = new Set([...by((a, b) => cpuPercent(b) - cpuPercent(a)), ...by((a, b) => b.memoryBytes - a.memoryBytes)]);
  return [...top].slice(0, 8).map((one) => ({
    name: short(one.name),
    cpuPercent: Math.max(0, cpuPercent(one)),
    memoryBytes: one.memoryBytes,
  }));
}

export async function readProcesses(signal: AbortSignal): Promise<PartOf<'processes'>> {
  const processes = await readProcessTable(signal);
  return { count: processes.length, top: busiest(processes, upTicks()) };
}
