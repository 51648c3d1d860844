import type { PartOf } from '@porch/core';
import { existsSync, readdirSync, statSync } from 'node:fs';
import os from 'node:os';
import { short, textOf } from './text-of.ts';

const TICKS_A_SECOND = 100;

/** When the kernel began (proc(5), `btime`): what processes are counted from. */
export function bootedAtMs(stat: string): number | undefined {
  const seconds = /^btime (\d+)$/m.exec(stat)?.[1];
  return seconds === undefined ? undefined : Number(seconds) * 1_000;
}
/** When the first process of this computer began (proc(5): `btime`, and field 22 of `stat`). */
export function startedAtMs(stat: string, ofFirst: string): number | undefined {
  const bootMs = bootedAtMs(stat);
  const ticks = ofFirst.slice(ofFirst.lastIndexOf(')') + 2).split(' ')[19];
  if (bootMs === undefined || ticks === undefined) return undefined;
  return Math.round(bootMs + (Number(ticks) / TICKS_A_SECOND) * 1_000);
}

export function readSystem(): PartOf<'system'> {
  const release = textOf('/etc/os-release') ?? '';
  const name = /^PRETTY_NAME="?([^"\n]*)/m.exec(release)?.[1] ?? os.type();
  const installedAtMs = statSync('/').birthtimeMs;
  return {
    name: short(name),
    kernel: short(os.release()),
    architecture: short(os.arch()),
    computer: short(os.hostname()),
    startedAtMs:
      startedAtMs(textOf('/proc/stat') ?? '', textOf('/proc/1/stat') ?? '') ?? Date.now() - os.uptime() * 1_000,
    ...(installedAtMs > 0 ? { installedAtMs } : {}),
    timeZone: short(Intl.DateTimeFormat().resolvedOptions().timeZone),
    language: short(process.env['LANG'] ?? ''),
    wantsRestart: existsSync('/run/reboot-required'),
  };
}

export function readHardware(): PartOf<'hardware'> {
  const [maker, model] = ['sys_vendor', 'product_name'].map((file) => short(textOf(`/sys/class/dmi/id/${file}`) ?? ''));
  const processor = /^model name\s*:\s*(.*)$/m.exec(textOf('/proc/cpuinfo') ?? '')?.[1] ?? os.arch();
  return {
    ...(maker ? { maker } : {}),
    ...(model ? { model } : {}),
    processor: short(processor),
    cores: os.cpus().length,
  };
}

/** proc(5), `meminfo` and `loadavg`. */
export function memoryOf(meminfo: string, loadavg: string, cores: number): PartOf<'memory'> {
  const bytes = (name: string) => Number(new RegExp(`^${name}:\\s+(\\d+) kB$`, 'm').exec(meminfo)?.[1] ?? 0) * 1024;
  return {
    totalBytes: bytes('MemTotal'),
    availableBytes: bytes('MemAvailable'),
    swapTotalBytes: bytes('SwapTotal'),
    swapFreeBytes: bytes('SwapFree'),
    loadPerCore: Number(loadavg.split(' ')[0] ?? 0) / Math.max(1, cores),
  };
}
export const readMemory = (): PartOf<'memory'> =>
  memoryOf(textOf('/proc/meminfo') ?? '', textOf('/proc/loadavg') ?? '', os.cpus().length);

/** The first battery (sysfs class power_supply). `root`: where the class lies. */
export function readBattery(root = '/sys/class/power_supply'): PartOf<'battery'> {
  const own = existsSync(root) ? readdirSync(root).map((name) => `${root}/${name}`) : [];
  const battery = own.find((path) => textOf(`${path}/type`)?.trim() === 'Battery');
  if (battery === undefined) return { isThere: false };
  const number = (file: string): number | undefined => {
    const text = textOf(`${battery}/${file}`)?.trim();
    return text !== undefined && /^\d+$/.test(text) ? Number(text) : undefined;
  };
  const percent = number('capacity');
  const status = textOf(`${battery}/status`)?.trim();
  const full = number('energy_full') ?? number('charge_full');
  const first = number('energy_full_design') ?? number('charge_full_design');
  return {
    isThere: true,
    ...(percent === undefined ? {} : { percent: Math.min(100, percent) }),
    ...(status === undefined ? {} : { isCharging: status === 'Charging' || status === 'Full' }),
    ...(full && first ? { healthPercent: Math.min(100, Math.round((full / first) * 100)) } : {}),
  };
}

/** The names of sound cards (proc(5), `asound/cards`). */
export const cardsOf = (cards: string): string[] =>
  [...cards.matchAll(/^\s*\d+ \[[^\]]*\]: (.*)$/gm)].slice(0, 16).map(([, name = '']) => short(name));
