// `npm run shape`: measures the shape of the code and holds it. Nothing may become worse than `shape-limits.json` says, and
// a limit that is not needed any longer has to go. `-- --json` prints the numbers, `-- --keep` writes today's down.
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';
import { parse } from 'vue/compiler-sfc';
import { gzipSync } from 'node:zlib';
import { circlesOf, importsBetween, importsOf } from './circles.mjs';
import { root, say } from './setup.mjs';

const MOST_FILES_A_PERMISSION = 10;
const MOST_LINES_A_FILE = 300;
const MOST_LINES_A_FUNCTION = 60;
/** What a page fetches before it shows anything, compressed, in KiB. */
const MOST_FIRST_LOAD_KB = 120;
const LEAST_TEST_SHARE = 0.25;
const LIMITS = join(root, 'scripts', 'shape-limits.json');

const isTest = (path) => /\.test\.ts$|(^|\/)test\/|^packages\/testkit\//.test(path);
const isSource = (path) => /\.(ts|vue)$/.test(path) && !/\.d\.ts$/.test(path);

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', '.cache'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesIn(path);
    else if (isSource(entry.name)) yield relative(root, path);
  }
}
const all = ['packages', 'apps', 'demo', 'bench', 'test']
  .flatMap((folder) => [...filesIn(join(root, folder))])
  .sort()
  .map((path) => ({ path, text: readFileSync(join(root, path), 'utf8') }));
const production = all.filter(({ path }) => !isTest(path));
const linesOf = (text) => text.split('\n').filter((line) => line.trim() !== '').length;

/** The TypeScript of a file, and on which line of it that begins. */
function scriptOf({ path, text }) {
  if (!path.endsWith('.vue')) return { script: text, firstLine: 0 };
  const block = parse(text).descriptor.scriptSetup;
  return block ? { script: block.content, firstLine: block.loc.start.line - 1 } : undefined;
}

function nameOf(node, source) {
  if (node.name) return node.name.getText(source);
  const { parent } = node;
  if (parent && (ts.isVariableDeclaration(parent) || ts.isPropertyAssignment(parent)))
    return parent.name.getText(source);
  return undefined;
}

/** Every function of a file that is longer than it should be, by its name within the file. */
function longFunctions(file) {
  const part = scriptOf(file);
  if (!part) return [];
  const source = ts.createSourceFile(file.path, part.script, ts.ScriptTarget.Latest, true);
  const found = [];
  const visit = (node, inside) => {
    let here = inside;
    if (ts.isClassDeclaration(node)) here = node.name?.text ?? inside;
    // What only hands back a function, with what it needs bound, is that function.
    const isCurried = ts.isArrowFunction(node) && ts.isArrowFunction(node.body);
    if (isCurried) here = nameOf(node, source) ?? inside;
    else if (ts.isFunctionLike(node) && node.body) {
      const lines = linesOf(source.text.slice(node.getStart(source), node.end));
      const own = nameOf(node, source) ?? (ts.isConstructorDeclaration(node) ? 'constructor' : undefined);
      const isBound = own === undefined && ts.isArrowFunction(node.parent);
      const name = own ?? 'a callback';
      here = isBound ? inside : inside ? `${inside}.${name}` : name;
      if (lines > MOST_LINES_A_FUNCTION) found.push({ name: `${file.path} ${here}`, lines });
    }
    ts.forEachChild(node, (child) => visit(child, here));
  };
  visit(source, '');
  return found;
}

/** The names of the catalogue, each with the files that know it; what another permission merely needs is no knowledge. */
function filesByPermission() {
  const shapes = production.filter(({ path }) => /core\/src\/abilities\/[^/]+\/shape\.ts$/.test(path));
  const names = shapes.flatMap(({ text }) =>
    [...text.matchAll(/^ {4}'([a-z]+(?:-[a-z]+)+)': \{/gm)].map(([, name]) => name),
  );
  if (names.length < 10) throw new Error('the catalogue of permissions cannot be read any longer; look at shape.mjs');
  return names.map((name) => ({
    name,
    files: production.filter(({ text }) =>
      text.split('\n').some((line) => line.includes(`'${name}'`) && !/\bneeds:/.test(line)),
    ).length,
  }));
}

/** The page itself, what it names, what those import before anything is asked for, and the words of one language. */
function firstLoadKb(app) {
  const folder = join(root, 'dist', 'web', app);
  if (!existsSync(folder)) throw new Error('the pages are not built; npm run build');
  const html = readFileSync(join(folder, 'index.html'), 'utf8');
  const seen = new Set();
  const visit = (name) => {
    if (seen.has(name)) return;
    seen.add(name);
    if (!name.endsWith('.js')) return;
    const text = readFileSync(join(folder, 'assets', name), 'utf8');
    for (const [, next] of text.matchAll(/(?:from|import)\s*["']\.\/([^"']+)["']/g)) visit(next);
  };
  for (const [, name] of html.matchAll(/assets\/([^"]+\.(?:js|css))"/g)) visit(name);
  for (const name of readdirSync(join(folder, 'assets'))) if (/^en-[^.]+\.js$/.test(name)) visit(name);
  const bytes = [...seen].reduce((sum, name) => sum + gzipSync(readFileSync(join(folder, 'assets', name))).length, 0);
  return Math.ceil((bytes + gzipSync(html).length) / 1024);
}

const limits = existsSync(LIMITS)
  ? JSON.parse(readFileSync(LIMITS, 'utf8'))
  : { permissions: {}, files: {}, functions: {}, firstLoad: {} };
const wrong = [];

/** Compares what is with what may be; `usual` is what needs no entry in the list. */
function hold(kind, measured, usual, unit) {
  const kept = limits[kind];
  for (const [name, value] of measured) {
    const most = kept[name]?.most ?? usual;
    if (value > most) wrong.push(`${name}: ${value} ${unit}, and ${most} are allowed`);
  }
  for (const name of Object.keys(kept)) {
    const value = measured.get(name) ?? 0;
    if (value <= usual) wrong.push(`${name}: needs no exception any longer; take it out of shape-limits.json`);
    // A page's size depends on the compressor, too: less is not asked for to the last byte.
    else if (kind !== 'firstLoad' && value < kept[name].most)
      wrong.push(`${name}: has become ${value} ${unit}; say so in shape-limits.json (npm run shape -- --keep)`);
  }
}

const permissions = new Map(filesByPermission().map(({ name, files }) => [name, files]));
const fileLines = new Map(production.map(({ path, text }) => [path, linesOf(text)]));
const functionLines = new Map();
for (const { name, lines } of production.flatMap(longFunctions))
  functionLines.set(name, Math.max(lines, functionLines.get(name) ?? 0));
const testLines = all.filter(({ path }) => isTest(path)).reduce((sum, { text }) => sum + linesOf(text), 0);
const share = testLines / all.reduce((sum, { text }) => sum + linesOf(text), 0);
const imports = importsOf(all);
const circles = [
  ...circlesOf(imports),
  // Modules of the service, each as one.
  ...circlesOf(importsBetween(imports, (path) => /^apps\/service\/src\/modules\/([^/]+)\//.exec(path)?.[1])),
];
const firstLoad = new Map(['front-door', 'console'].map((app) => [app, firstLoadKb(app)]));

if (process.argv.includes('--keep')) {
  const keep = (kind, measured, usual) =>
    Object.fromEntries(
      [...measured]
        .filter(([, value]) => value > usual)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([name, most]) => [name, { most, why: limits[kind][name]?.why ?? '' }]),
    );
  Object.assign(limits, {
    permissions: keep('permissions', permissions, MOST_FILES_A_PERMISSION),
    files: keep('files', fileLines, MOST_LINES_A_FILE),
    functions: keep('functions', functionLines, MOST_LINES_A_FUNCTION),
  });
  writeFileSync(LIMITS, `${JSON.stringify(limits, undefined, 2)}\n`);
}
hold('permissions', permissions, MOST_FILES_A_PERMISSION, 'files know it');
hold('files', fileLines, MOST_LINES_A_FILE, 'lines');
hold('functions', functionLines, MOST_LINES_A_FUNCTION, 'lines');
hold('firstLoad', firstLoad, MOST_FIRST_LOAD_KB, 'kB at first load');
for (const circle of circles) wrong.push(`a circle of imports: ${circle.join(', ')}`);
for (const kind of Object.keys(limits))
  for (const [name, { why }] of Object.entries(limits[kind]))
    if (!why) wrong.push(`${name}: no reason is given in shape-limits.json`);
if (share < LEAST_TEST_SHARE)
  wrong.push(`tests are ${(share * 100).toFixed(1)} % of the code, and ${LEAST_TEST_SHARE * 100} are wanted`);

const over = (measured, usual) => [...measured].filter(([, value]) => value > usual).sort(([, a], [, b]) => b - a);
if (process.argv.includes('--json'))
  say(
    JSON.stringify({
      permissions: Object.fromEntries(permissions),
      longFiles: Object.fromEntries(over(fileLines, MOST_LINES_A_FILE)),
      longFunctions: Object.fromEntries(functionLines),
      firstLoadKb: Object.fromEntries(firstLoad),
      circles,
      testShare: share,
      wrong,
    }),
  );
else {
  const top = (pairs) => pairs.slice(0, 5).map(([name, value]) => `    ${String(value).padStart(4)}  ${name}`);
  say(
    [
      `Files that know a permission by name (aim: at most ${MOST_FILES_A_PERMISSION})`,
      ...top(over(permissions, 0)),
      `Files over ${MOST_LINES_A_FILE} lines: ${over(fileLines, MOST_LINES_A_FILE).length}`,
      ...top(over(fileLines, MOST_LINES_A_FILE)),
      `Functions over ${MOST_LINES_A_FUNCTION} lines: ${functionLines.size}`,
      ...top(over(functionLines, 0)),
      `Circles of imports: ${circles.length}`,
      `First load, compressed: ${[...firstLoad].map(([app, kb]) => `${app} ${kb} kB`).join(', ')}`,
      `Tests: ${(share * 100).toFixed(1)} % of the code`,
    ].join('\n'),
  );
  for (const line of wrong) say(`✗ ${line}`);
}
process.exit(wrong.length ? 1 : 0);
