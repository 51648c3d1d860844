import type { ProgramRow } from '@porch/core';
import type { ProgramReading } from '@porch/host';
import { z } from 'zod';
import { runCommand } from '../system/run-command.ts';
import { needSystemd } from '../system/systemd.ts';
import { short } from '../system/text-of.ts';
import { isNeededService } from './guards.ts';

/** Whose services: the computer's, or those that run for the person alone. */
export const managers = { computer: ['--system'], person: ['--user'] } as const;
export type Manager = keyof typeof managers;

const Units = z.array(
  z.looseObject({ unit: z.string(), active: z.string(), sub: z.string(), description: z.string().default('') }),
);
const Files = z.array(z.looseObject({ unit_file: z.string(), state: z.string() }));

/** What a tool printed as JSON; an empty list where it printed none, as for a person that has no services of their own. */
export function parsedList<T>(schema: z.ZodType<T[]>, json: string): T[] {
  return json.trim() === '' ? [] : schema.parse(JSON.parse(json));
}

const begins: Readonly<Record<string, ProgramRow<'services'>['begins']>> = {
  ...{ enabled: 'by-itself', 'enabled-runtime': 'by-itself', disabled: 'by-hand', masked: 'never' },
  ...{ 'masked-runtime': 'never', static: 'when-needed', indirect: 'when-needed', generated: 'by-itself' },
  alias: 'when-needed',
};
function stateOf(active: string, sub: string): ProgramRow<'services'>['state'] {
  if (active === 'failed') return 'failed';
  if (active === 'activating' || active === 'reloading') return 'starting';
  if (active === 'deactivating') return 'stopping';
  if (active !== 'active') return 'stopped';
  return sub === 'exited' ? 'done' : 'running';
}

/** systemctl(1), `list-units` and `list-unit-files` with `--output=json`; what is not loaded stands in the second one only. */
export function servicesOf(units: string, files: string, whose: Manager): ProgramRow<'services'>[] {
  const how = new Map(parsedList(Files, files).map(({ unit_file: unit, state }) => [unit, state]));
  const loaded = parsedList(Units, units);
  const isLoaded = new Set(loaded.map(({ unit }) => unit));
  const others = [...how.keys()]
    // A template is no service, and another name of one is not another service.
    .filter((unit) => !isLoaded.has(unit) && !/@\.service$/.test(unit) && how.get(unit) !== 'alias')
    .map((unit) => ({ unit, active: 'inactive', sub: 'dead', description: '' }));
  return [...loaded, ...others].map(({ unit, active, sub, description }) => ({
    id: `${whose}/${unit}`.slice(0, 160),
    name: short(unit.replace(/\.service$/, '')),
    about: short(description),
    state: stateOf(active, sub),
    begins: begins[how.get(unit) ?? ''] ?? 'unknown',
    whose,
    ...(isNeededService(unit) ? { guard: 'needed' as const } : {}),
  }));
}

const ask = (whose: Manager, verb: string, signal: AbortSignal) =>
  runCommand('systemctl', [...managers[whose], verb, '--output=json', '--no-pager', '--type=service', '--all'], signal);

/** How a service begins is read anew after this: finding it out costs more than all the rest. */
const FILES_MS = 20_000;

/** Services of the computer, and the person's own. */
export class ServicesList implements ProgramReading<'services'> {
  readonly #files = new Map<Manager, { readonly atMs: number; readonly text: string }>();

  async read(signal: AbortSignal): Promise<ProgramRow<'services'>[]> {
    needSystemd();
    const of = async (whose: Manager) => {
      const [units, files] = await Promise.all([ask(whose, 'list-units', signal), this.#filesOf(whose, signal)]);
      return servicesOf(units, files, whose);
    };
    const [computer, person] = await Promise.all([of('computer'), of('person')]);
    return [...computer, ...person];
  }

  async #filesOf(whose: Manager, signal: AbortSignal): Promise<string> {
    const known = this.#files.get(whose);
    const nowMs = performance.now();
    if (known && nowMs - known.atMs < FILES_MS) return known.text;
    const text = await ask(whose, 'list-unit-files', signal);
    this.#files.set(whose, { atMs: nowMs, text });
    return text;
  }
}
