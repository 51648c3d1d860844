import type { ProgramList, ProgramRow } from './lists.ts';

/** What a list shows in columns, what is looked at first first. What is not here stands with the row that is chosen. */
export const programColumns = {
  processes: ['name', 'pid', 'cpuPercent', 'memoryBytes', 'whose', 'state', 'startedAtMs', 'startedAs'],
  services: ['name', 'state', 'begins', 'whose', 'about'],
  entries: ['atMs', 'weight', 'from', 'text'],
  installed: ['name', 'version', 'changedAtMs', 'sizeBytes', 'about'],
  ports: ['port', 'protocol', 'address', 'reach', 'by'],
  jobs: ['name', 'when', 'nextAtMs', 'lastAtMs', 'whose', 'runs'],
} as const satisfies { readonly [L in ProgramList]: readonly (keyof ProgramRow<L>)[] };
export type ProgramColumn = (typeof programColumns)[ProgramList][number];

export interface ProgramOrder {
  readonly by: ProgramColumn;
  readonly isDown: boolean;
}
/** How a list stands before anybody orders it otherwise. */
export const firstOrder: { readonly [L in ProgramList]: ProgramOrder } = {
  processes: { by: 'cpuPercent', isDown: true },
  services: { by: 'state', isDown: false },
  entries: { by: 'atMs', isDown: true },
  installed: { by: 'name', isDown: false },
  ports: { by: 'port', isDown: false },
  jobs: { by: 'nextAtMs', isDown: false },
};

type Cell = string | number | undefined;
export const cellOf = (row: ProgramRow, column: ProgramColumn): Cell =>
  (row as Readonly<Partial<Record<ProgramColumn, Cell>>>)[column];

/** What has an order of its own stands in that, not by its letters: trouble first. */
const ranks: Readonly<Partial<Record<ProgramColumn, readonly string[]>>> = {
  state: ['failed', 'stuck', 'starting', 'stopping', 'working', 'running', 'waiting', 'stopped', 'done', 'ended'],
  weight: ['detail', 'info', 'notice', 'warning', 'error', 'urgent'],
};
const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });

function compare(a: Cell, b: Cell, column: ProgramColumn): number {
  const rank = ranks[column];
  if (rank) return rank.indexOf(String(a)) - rank.indexOf(String(b));
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return collator.compare(String(a), String(b));
}

/**
 * Those rows in which every word is found, wherever, in this order. What has no value stands last either way. `said`: what
 * readers are told of a row in words of their own language, which they may look for, too.
 */
export function chooseRows<R extends ProgramRow>(
  rows: Iterable<R>,
  words: string,
  { by, isDown }: ProgramOrder,
  said: (row: R) => readonly string[] = () => [],
): R[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = [...rows].filter((row) => {
    if (!wanted.length) return true;
    const own = Object.entries(row).flatMap(([key, value]) =>
      key === 'id' || value === undefined ? [] : String(value),
    );
    const all = [...own, ...said(row)].join('\n').toLowerCase();
    return wanted.every((word) => all.includes(word));
  });
  return found.sort((a, b) => {
    const [x, y] = [cellOf(a, by), cellOf(b, by)];
    if (x === undefined || y === undefined) return Number(x === undefined) - Number(y === undefined);
    const order = compare(x, y, by);
    // Equal ones keep one order whatever changes around them: nothing jumps under a pointer.
    return (isDown ? -order : order) || (a.id < b.id ? -1 : 1);
  });
}
