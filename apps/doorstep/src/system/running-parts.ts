import type { PartOf } from '@porch/core';
import { PartMissing } from '@porch/host';
import { existsSync, readdirSync } from 'node:fs';
import { z } from 'zod';
import { short, textOf } from './text-of.ts';
import { runCommand } from './run-command.ts';

const MAX_FAILED = 24;
const MAX_PROCESSES = 30_000;
const TOP = 5;
/** So many are looked at in one turn: keys do not wait for them. */
const AT_ONCE = 100;
const TICKS_A_SECOND = 100;
const PAGE_BYTES = 4_096;

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
  // As systemd's own tools find out whether it is what started this computer (sd_booted(3)).
  if (!existsSync('/run/systemd/system')) throw new PartMissing('not-there');
  return servicesIn(
    await runCommand('systemctl', ['list-units', '--type=service', '--all', '--output=json', '--no-pager'], signal),
  );
}

interface Process {
  readonly name: string;
  readonly ticks: number;
  readonly startedTicks: number;
  readonly memoryBytes: number;
}
/** proc(5), `stat` of a process: its name may hold anything, brackets too. */
export function processOf(stat: string): Process | undefined {
  const [open, close] = [stat.indexOf('('), stat.lastIndexOf(')')];
  const fields = stat
    .slice(close + 2)
    .split(' ')
    .map(Number);
  const [user, system, started, pages] = [fields[11], fields[12], fields[19], fields[21]];
  if (
    open < 0 ||
    close < open ||
    user === undefined ||
    system === undefined ||
    started === undefined ||
    pages === undefined
  )
    return undefined;
  return {
    name: stat.slice(open + 1, close),
    ticks: user + system,
    startedTicks: started,
    memoryBytes: pages * PAGE_BYTES,
  };
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
  const pids = readdirSync('/proc').filter((name) => /^\d+$/.test(name));
  const processes: Process[] = [];
  for (let at = 0; at < Math.min(pids.length, MAX_PROCESSES); at += AT_ONCE) {
    for (const pid of pids.slice(at, at + AT_ONCE)) {
      const found = processOf(textOf(`/proc/${pid}/stat`) ?? '');
      if (found) processes.push(found);
    }
    await new Promise((resolve) => setImmediate(resolve));
    signal.throwIfAborted();
  }
  const upTicks = Number(textOf('/proc/uptime')?.split(' ')[0] ?? 0) * TICKS_A_SECOND;
  return { count: pids.length, top: busiest(processes, upTicks) };
}
