import { z } from 'zod';
import { PorchView } from './rest-schemas.ts';

/*
 * The porch as it changes. What is whole comes whole; of a list come the things that are new or other, those that are gone,
 * and their order when that is another. What counts down is told with the moment at which it was told: a receiver goes on
 * counting, and nothing is sent for that.
 */

const { shape } = PorchView;
/** What each list tells its things apart by. */
const keys = {
  knownFaults: 'id',
  bookings: 'id',
  devices: 'id',
  waiting: 'id',
  sessions: 'id',
  tickets: 'ref',
  handovers: 'handoverId',
} as const satisfies Partial<Record<keyof PorchView, string>>;
type ListName = keyof typeof keys;
const listNames = Object.keys(keys) as ListName[];
/** Numbers that grow less by themselves; 0 when they are over. */
const countdowns: ReadonlySet<string> = new Set(['remainingMs', 'wrapUpMs']);
/** Two tellings of one moment may be so far apart. */
const SAME_MOMENT_MS = 500;

const listChange = <T extends z.ZodType>(thing: T) =>
  z.object({ put: z.array(thing), drop: z.array(z.string()), order: z.array(z.string()).optional() });

const { knownFaults, bookings, devices, waiting, sessions, tickets, handovers, nowMs, ...wholes } = shape;
export const PorchChange = z.object({
  nowMs,
  /** Without it everything that is not named stays as it was. */
  isWhole: z.boolean().optional(),
  /** What is no list; `null`: not there any longer. */
  set: z.object({ ...wholes, ticketTrouble: z.string().nullable() }).partial(),
  lists: z
    .object({
      knownFaults: listChange(knownFaults.element),
      bookings: listChange(bookings.element),
      devices: listChange(devices.element),
      waiting: listChange(waiting.element),
      sessions: listChange(sessions.element),
      tickets: listChange(tickets.element),
      handovers: listChange(handovers.element),
    })
    .partial(),
});
export type PorchChange = z.infer<typeof PorchChange>;

type Thing = Readonly<Record<string, unknown>>;
const idOf = (list: ListName, thing: Thing): string => String(thing[keys[list]]);

/** Whether both say the same, what counts down allowed for; `passedMs` lies between the two tellings. */
function isSame(a: unknown, b: unknown, passedMs: number, name = ''): boolean {
  if (a === b && !countdowns.has(name)) return true;
  if (typeof a === 'number' && typeof b === 'number' && countdowns.has(name))
    return Math.abs(Math.max(0, a - passedMs) - b) < SAME_MOMENT_MS;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  const [left, right] = [a as Thing, b as Thing];
  const names = Object.keys(left);
  return (
    names.length === Object.keys(right).length &&
    names.every((each) => Object.hasOwn(right, each) && isSame(left[each], right[each], passedMs, each))
  );
}

/** What counts down in it has counted on: the same, so much later. */
export function countedOn<T>(value: T, passedMs: number, name = ''): T {
  if (typeof value === 'number' && countdowns.has(name)) return Math.max(0, value - passedMs) as T;
  if (Array.isArray(value)) return value.map((each: unknown) => countedOn(each, passedMs)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([each, part]) => [each, countedOn(part, passedMs, each)])) as T;
}

/** Something as it was told, and when. */
interface Told {
  readonly value: unknown;
  readonly atMs: number;
}
interface ToldThing extends Told {
  readonly id: string;
}
const isKnown = (told: Told | undefined, now: unknown, nowMs: number, name = ''): boolean =>
  told !== undefined && (told.value === now || isSame(told.value, now, nowMs - told.atMs, name));

/** What one receiver was told of the porch, thing by thing: so that what they are told next is only what they do not know. */
export class PorchTold {
  readonly #wholes = new Map<string, Told>();
  readonly #lists = new Map<ListName, ToldThing[]>();
  #isNew = true;

  /** What has to be told to whoever was told all of that, so that they know `now`; undefined: nothing. */
  difference(now: PorchView): PorchChange | undefined {
    const { nowMs } = now;
    const set: Record<string, unknown> = {};
    for (const name of Object.keys(wholes) as (keyof typeof wholes)[]) {
      const value = now[name];
      if (value === undefined ? !this.#wholes.has(name) : isKnown(this.#wholes.get(name), value, nowMs, name)) continue;
      set[name] = value ?? null;
      if (value === undefined) this.#wholes.delete(name);
      else this.#wholes.set(name, { value, atMs: nowMs });
    }
    const lists: Record<string, unknown> = {};
    for (const name of listNames) {
      const changed = this.#list(name, now[name] as Thing[], nowMs);
      if (changed) lists[name] = changed;
    }
    const isWhole = this.#isNew;
    this.#isNew = false;
    if (!isWhole && !Object.keys(set).length && !Object.keys(lists).length) return undefined;
    return { nowMs, ...(isWhole ? { isWhole } : {}), set, lists } as PorchChange;
  }

  #list(name: ListName, now: readonly Thing[], nowMs: number) {
    const known = this.#lists.get(name) ?? [];
    const isInPlace = known.length === now.length && now.every((thing, at) => known[at]?.id === idOf(name, thing));
    if (isInPlace) {
      // As it is nearly always: nothing came, went or moved.
      const put = now.filter((thing, at) => !isKnown(known[at], thing, nowMs));
      if (!put.length) return undefined;
      const news = new Set(put);
      this.#lists.set(
        name,
        now.map((value, at) =>
          news.has(value) ? { id: idOf(name, value), value, atMs: nowMs } : (known[at] as ToldThing),
        ),
      );
      return { put, drop: [] };
    }
    const byId = new Map(known.map((told) => [told.id, told]));
    const next = now.map((value): ToldThing => {
      const id = idOf(name, value);
      const told = byId.get(id);
      return told && isKnown(told, value, nowMs) ? told : { id, value, atMs: nowMs };
    });
    const put = next.filter((told) => byId.get(told.id) !== told).map(({ value }) => value as Thing);
    const present = new Set(next.map(({ id }) => id));
    const asApplied = [...known.filter(({ id }) => present.has(id)), ...next.filter(({ id }) => !byId.has(id))];
    const isReordered = asApplied.some(({ id }, at) => next[at]?.id !== id);
    this.#lists.set(name, next);
    return {
      put,
      drop: known.filter(({ id }) => !present.has(id)).map(({ id }) => id),
      ...(isReordered ? { order: next.map(({ id }) => id) } : {}),
    };
  }
}

const nothing = Object.fromEntries(listNames.map((name) => [name, []])) as unknown as Pick<PorchView, ListName>;

/** What somebody knows who was told that, too; undefined when they have missed what it builds on. */
export function applyPorchChange(before: PorchView | undefined, change: PorchChange): PorchView | undefined {
  if (!before && !change.isWhole) return undefined;
  const known = change.isWhole || !before ? { ...nothing, nowMs: change.nowMs } : before;
  const passedMs = change.nowMs - known.nowMs;
  const next: Record<string, unknown> = { ...countedOn(known, passedMs), ...change.set, nowMs: change.nowMs };
  for (const [name, value] of Object.entries(change.set)) if (value === null) delete next[name];
  for (const name of listNames) {
    const changed = change.lists[name];
    if (!changed) continue;
    const things = new Map((next[name] as Thing[]).map((thing) => [idOf(name, thing), thing]));
    for (const id of changed.drop) things.delete(id);
    for (const thing of changed.put as Thing[]) things.set(idOf(name, thing), thing);
    next[name] = changed.order ? changed.order.flatMap((id) => things.get(id) ?? []) : [...things.values()];
  }
  return next as unknown as PorchView;
}
