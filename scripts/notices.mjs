// What is inside, made at build: the licences of every package that runs, and a bill of materials (CycloneDX).
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './setup.mjs';

const LICENCE_FILE = /^(licen[cs]e|copying|notice)(\.|-|$)/i;

function licenceText(folder) {
  const names = existsSync(folder) ? readdirSync(folder).filter((name) => LICENCE_FILE.test(name)) : [];
  return names.map((name) => readFileSync(join(folder, name), 'utf8').trim()).join('\n\n');
}

/** Every package that is no tool of ours, once for each version, with its licence in full. Throws for one without a licence. */
function notices() {
  const lock = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8'));
  const packages = new Map();
  for (const [path, { version, license, dev, link, optional }] of Object.entries(lock.packages)) {
    if (!path.includes('node_modules/') || dev || link) continue;
    const name = path.slice(path.lastIndexOf('node_modules/') + 'node_modules/'.length);
    const folder = join(root, path);
    // Native parts for other machines are not here.
    if (optional && !existsSync(folder)) continue;
    const own = existsSync(folder) ? JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8')) : {};
    const kind = license ?? own.license ?? own.licenses?.map((l) => l.type).join(' or ');
    if (!kind) throw new Error(`${name} ${version} names no licence: it cannot be given on`);
    packages.set(`${name} ${version}`, { kind: String(kind.type ?? kind), text: licenceText(folder) });
  }
  return [...packages].sort(([a], [b]) => (a < b ? -1 : 1));
}

export function writeNotices(folder) {
  const all = notices();
  const text = all
    .map(([name, { kind, text }]) => `${name}\n${kind}\n\n${text}`.trimEnd())
    .join(`\n\n${'-'.repeat(79)}\n\n`);
  writeFileSync(
    join(folder, 'third-party-notices.txt'),
    `Zesty Porch contains these packages, each under its own licence.\n\n${text}\n`,
  );
  const { status, stdout, stderr } = spawnSync(
    'npm',
    ['sbom', '--sbom-format', 'cyclonedx', '--omit', 'dev', '--package-lock-only'],
    { cwd: root, encoding: 'utf8', maxBuffer: 64 * 1024 * 1024 },
  );
  if (status !== 0) throw new Error(`npm sbom ended with ${status}: ${stderr}`);
  writeFileSync(join(folder, 'sbom.json'), stdout);
  return all.length;
}
