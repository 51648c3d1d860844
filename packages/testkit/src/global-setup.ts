import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, rmSync, chmodSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createDatabase, deskSettings, loadTechnicians, Processes, startPostgres } from '@porch/demo';
import { chromium } from 'playwright-core';
import type { TestProject } from 'vitest/node';
import { secretFor } from './secrets.ts';

const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..', '..');
const NEEDED_BYTES = 1024 ** 3;

declare module 'vitest' {
  interface ProvidedContext {
    postgresUrl: string;
    browserUrl: string;
    folder: string;
    root: string;
  }
}

/** Memory when there is enough of it (containers often have 64 MB), else the disk. */
function workFolder(): string {
  const inMemory = existsSync('/dev/shm') ? statfsSync('/dev/shm') : undefined;
  const base = inMemory && inMemory.bavail * inMemory.bsize > NEEDED_BYTES ? '/dev/shm' : tmpdir();
  const folder = mkdtempSync(join(base, 'zesty-porch-test-'));
  chmodSync(folder, 0o711);
  return folder;
}

/** One PostgreSQL with a migrated, loaded template, and one Chromium, for the whole run. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = workFolder();
  // Hundreds of programs are started in a run: each compiles only what none before it has.
  process.env['NODE_COMPILE_CACHE'] = join(folder, 'compiled');
  const processes = new Processes(createHash('sha256').update(`${root} tests`).digest('hex').slice(0, 12));
  await processes.endLeftovers();
  const postgres = await startPostgres({ folder: join(folder, 'postgres'), isThrowaway: true });
  // Should this process die, nobody else would end the server.
  const watchdog = spawn(
    'sh',
    [
      '-c',
      `while kill -0 ${process.pid} 2>/dev/null; do sleep 1; done; kill -INT $(head -1 ${folder}/postgres/data/postmaster.pid) 2>/dev/null; sleep 2; rm -rf ${folder}`,
    ],
    { detached: true, stdio: 'ignore' },
  );
  watchdog.unref();
  const template = await createDatabase(postgres, 'template_porch');
  const service = await processes.startReady('service, for the template', join(root, 'dist', 'service.mjs'), {
    PORCH_PORT: '0',
    PORCH_DATABASE_URL: template,
    PORCH_SECRET_FILE: secretFor(folder, 'secret'),
    PORCH_LOG_LEVEL: 'error',
    // Once there are topics, what the environment says of them counts no longer.
    PORCH_TOPICS: deskSettings.PORCH_TOPICS,
    PORCH_TOPIC_NEEDS: deskSettings.PORCH_TOPIC_NEEDS,
  });
  const ended = new Promise((resolve) => service.child.once('exit', resolve));
  service.child.kill('SIGTERM');
  await ended;
  await loadTechnicians(template);
  const browser = await chromium.launchServer({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      // There is nobody to choose in a dialog: a page that captures gets its own tab.
      '--auto-accept-this-tab-capture',
      // Nor is there a camera: this one shows a moving pattern.
      '--use-fake-device-for-media-stream',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  project.provide('postgresUrl', postgres.urlFor('postgres'));
  project.provide('browserUrl', browser.wsEndpoint());
  project.provide('folder', folder);
  project.provide('root', root);
  return async () => {
    await browser.close();
    await processes.stop();
    await postgres.stop();
    watchdog.kill();
    rmSync(folder, { recursive: true, force: true });
  };
}
