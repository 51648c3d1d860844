import type { ProgramRow } from '@porch/core';
import type { ProgramReading } from '@porch/host';
import { bootedAtMs } from '../system/computer-parts.ts';
import { textOf } from '../system/text-of.ts';
import { guardsOf } from './guards.ts';
import {
  accountOf,
  idOfProcess,
  readProcessTable,
  TICKS_A_SECOND,
  upTicks,
  whoseIs,
  type Process,
} from '../system/process-table.ts';

const MAX_COMMAND_CHARS = 400;

const states: Readonly<Record<string, ProgramRow<'processes'>['state']>> = {
  ...{ R: 'working', S: 'waiting', I: 'waiting', D: 'stuck' },
  ...{ T: 'stopped', t: 'stopped', Z: 'ended', X: 'ended' },
};

const secretName = '(?:pass(?:word|wd|phrase)?(?![a-z])|secret|token|api[-_]?key|credentials?)[\\w-]*';
const asOption = new RegExp(`(-[\\w-]*?${secretName})(\\s+|[=:]\\s*)(\\S+)`, 'gi');
const assigned = new RegExp(`(${secretName})([=:]\\s*)(\\S+)`, 'gi');
const inAddress = /(\w+:\/\/[^\s:/@]+):[^\s@]+@/g;
/** What looks like a secret is left out of what a program was started with: after its usual names, and in addresses. */
export const withoutSecrets = (command: string): string =>
  command.replace(asOption, '$1$2…').replace(assigned, '$1$2…').replace(inAddress, '$1:…@');

/** proc(5), `cmdline`: words that end with a zero each. */
export const commandIn = (cmdline: string): string =>
  withoutSecrets(cmdline.replace(/\0+$/, '').replaceAll('\0', ' ')).replace(/\s+/g, ' ').slice(0, MAX_COMMAND_CHARS);

interface Known {
  readonly whose: ProgramRow<'processes'>['whose'];
  /** Not looked at yet where there is none. */
  startedAs: string | undefined;
  ticks: number;
}

/** Processes, but for those of the kernel: they hold no memory of their own. With what each was started is said from the second reading on. */
export class ProcessesList implements ProgramReading<'processes'> {
  readonly #known = new Map<string, Known>();
  #atMs: number | undefined;
  isHalf = false;

  async read(signal: AbortSignal): Promise<ProgramRow<'processes'>[]> {
    const processes = await readProcessTable(signal);
    const nowMs = performance.now();
    const sinceMs = this.#atMs === undefined ? undefined : nowMs - this.#atMs;
    this.isHalf = this.#atMs === undefined;
    this.#atMs = nowMs;
    const guards = guardsOf(processes);
    const bootMs = bootedAtMs(textOf('/proc/stat') ?? '') ?? 0;
    const nowTicks = upTicks();
    const there = processes.filter(({ memoryBytes, state }) => memoryBytes > 0 || state === 'Z');
    const rows = there.map((one) => this.#row(one, { sinceMs, bootMs, nowTicks, guard: guards.get(one.pid) }));
    const ids = new Set(rows.map(({ id }) => id));
    for (const id of this.#known.keys()) if (!ids.has(id)) this.#known.delete(id);
    return rows;
  }

  #row(
    one: Process,
    now: { sinceMs: number | undefined; bootMs: number; nowTicks: number; guard: 'ours' | 'needed' | undefined },
  ): ProgramRow<'processes'> {
    const id = idOfProcess(one);
    const known = this.#known.get(id);
    const lived = Math.max(TICKS_A_SECOND, now.nowTicks - one.startedTicks);
    const share =
      known && now.sinceMs !== undefined
        ? (one.ticks - known.ticks) / ((Math.max(1, now.sinceMs) / 1_000) * TICKS_A_SECOND)
        : one.ticks / lived;
    const whose = known?.whose ?? whoseIs(accountOf(one.pid));
    const startedAs = known?.startedAs ?? (this.isHalf ? undefined : startedAsOf(one));
    this.#known.set(id, { whose, startedAs, ticks: one.ticks });
    return {
      ...{ id, name: one.name.slice(0, 120), pid: one.pid, memoryBytes: one.memoryBytes, whose },
      startedAs: startedAs ?? one.name.slice(0, 120),
      cpuPercent: Math.max(0, Math.round(share * 1_000) / 10),
      state: states[one.state] ?? 'waiting',
      startedAtMs: Math.round(now.bootMs + (one.startedTicks / TICKS_A_SECOND) * 1_000),
      ...(now.guard ? { guard: now.guard } : {}),
    };
  }
}

/** Looked at once: it does not change while it runs. */
const startedAsOf = ({ pid, name }: Process): string => commandIn(textOf(`/proc/${pid}/cmdline`) ?? '') || name;
