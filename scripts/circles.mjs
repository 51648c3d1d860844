// Circles of imports: files that need each other, types included, directly or by way of others.
import { existsSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { root } from './setup.mjs';

/** Every file with the files of ours that it imports; `files` as `{ path, text }`, paths from the root. */
export function importsOf(files) {
  const known = new Set(files.map(({ path }) => path));
  return new Map(
    files.map(({ path, text }) => {
      const named = [...text.matchAll(/\b(?:from|import)\s*\(?\s*['"](\.[^'"]+)['"]/g)].map(([, name]) =>
        normalize(join(dirname(path), name)),
      );
      const missing = named.find((name) => /\.(ts|vue)$/.test(name) && !existsSync(join(root, name)));
      if (missing) throw new Error(`${path} imports ${missing}, which cannot be found; look at circles.mjs`);
      return [path, new Set(named.filter((name) => known.has(name)))];
    }),
  );
}

/** The same, of what the files belong to: a file of which `placeOf` says nothing belongs to none. */
export function importsBetween(imports, placeOf) {
  const between = new Map();
  for (const [path, named] of imports) {
    const place = placeOf(path);
    if (place === undefined) continue;
    const others = between.get(place) ?? new Set();
    for (const name of named) {
      const other = placeOf(name);
      if (other !== undefined && other !== place) others.add(other);
    }
    between.set(place, others);
  }
  return between;
}

/** Groups of more than one in which everybody reaches everybody (R. Tarjan, SIAM J. Comput. 1 (1972), 146-160). */
export function circlesOf(imports) {
  const order = new Map();
  const lowest = new Map();
  const open = [];
  const circles = [];
  const visit = (node) => {
    order.set(node, order.size);
    lowest.set(node, order.get(node));
    open.push(node);
    for (const next of imports.get(node) ?? []) {
      if (!order.has(next)) visit(next);
      if (open.includes(next)) lowest.set(node, Math.min(lowest.get(node), lowest.get(next)));
    }
    if (lowest.get(node) !== order.get(node)) return;
    const group = open.splice(open.indexOf(node));
    if (group.length > 1) circles.push(group.sort());
  };
  for (const node of imports.keys()) if (!order.has(node)) visit(node);
  return circles;
}
