import { execFile } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { chmodSync, copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import pg from 'pg';
import { deskSettings, loadTechnicians } from './marrowick.ts';
import { createDatabase, freePort, startPostgres, type RunningPostgres } from './postgres.ts';
import { Processes } from './processes.ts';
import { directoryAppSettings, directorySettings, postOfficeSettings, postSettings } from './post-settings.ts';
import { bettina, samir, ScriptedCustomer } from './scripted-customer.ts';
import { canRun, ordinaryAccount, type Account } from './account.ts';
import {
  cameraThere,
  doorstepThere,
  hangBellThere,
  installRightsThere,
  passwordOf,
  theirComputer,
} from './computer/of-marrowick.ts';
import { whyNoComputers } from './computer/possible.ts';
import { dateQuayprint, installQuayprint, mondayBefore, offerQuayprint } from './computer/quayprint.ts';
import type { StandInComputer } from './computer/stand-in-computer.ts';
import { playWhatWasBefore } from './what-was-before.ts';
import { startDesktop } from './x-desktop.ts';

const dist = dirname(fileURLToPath(import.meta.url));
export const root = dirname(dist);
const DAY_MS = 86_400_000;
const fileOf = (name: string) => join(dist, name);

export interface Stage {
  readonly serviceUrl: string;
  readonly ticketsUrl: string;
  readonly postUrl: string;
  readonly processes: Processes;
  readonly customers: readonly ScriptedCustomer[];
  readonly folder: string;
  stop(): Promise<void>;
}

/** A port people can remember if it is free, any other otherwise. */
async function portNear(wanted: number): Promise<number> {
  const isFree = await new Promise<boolean>((resolve) => {
    const server = createServer().on('error', () => resolve(false));
    server.listen(wanted, '127.0.0.1', () => server.close(() => resolve(true)));
  });
  return isFree ? wanted : freePort();
}

export function secretFile(folder: string, name: string): string {
  const file = join(folder, name);
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600 });
  return file;
}

/** As it was built; where customers cannot read that, as they would download it, from a place of their own. */
function doorstepFor(account: Account | undefined, folder: string): string[] {
  const built = fileOf('doorstep.mjs');
  if (canRun(account, built)) return [process.execPath, '--enable-source-maps', built];
  const released = join(folder, 'doorstep');
  copyFileSync(fileOf(join('release', 'doorstep')), released);
  chmodSync(released, 0o755);
  return [released];
}

/** What somebody at a ferry desk has on their desktop, on a computer of their own or as an account of this machine. */
const theirs = (i: number) => ({
  name: i ? 'Samir Oduya' : 'Bettina Crole',
  hasSound: true,
  hasBus: true,
});

/** A program of ours that runs in their account, as far as they can read it. */
const cameraFor = (account: Account | undefined) =>
  canRun(account, fileOf('camera.mjs')) ? { camera: [process.execPath, fileOf('camera.mjs')] } : {};

/** What happened at Tern Quay on Monday, by that computer's own packages. */
async function updateDriver(computer: StandInComputer, packages: string): Promise<void> {
  const monday = mondayBefore(new Date());
  for (const version of ['3.8', '4.1'] as const) await installQuayprint(computer, packages, version);
  offerQuayprint(computer, packages);
  await dateQuayprint(computer, { '3.8': new Date(monday.getTime() - 21 * DAY_MS), '4.1': monday });
}

/** Two customers, each with a computer of its own where this machine can hold them; else with a desktop alone, which is said. */
async function startCustomers(
  processes: Processes,
  {
    folder,
    serviceUrl,
    env,
    tell,
  }: { folder: string; serviceUrl: string; env: NodeJS.ProcessEnv; tell: (line: string) => void },
): Promise<ScriptedCustomer[]> {
  const missing = whyNoComputers();
  tell(missing === undefined ? "Two customers' computers" : "Two customers' desktops");
  if (missing !== undefined)
    tell(`  Without computers of their own: ${missing}. Services, restarts and accounts cannot be tried on these.`);
  mkdirSync(join(folder, 'home'), { recursive: true, mode: 0o711 });
  const deskKey = await readDeskKey(env);
  const logins = ['bettina', 'samir'] as const;
  return Promise.all(
    logins.map(async (login, i) => {
      const home = join(folder, 'home', login);
      const port = Number(new URL(serviceUrl).port);
      const account = missing === undefined ? undefined : ordinaryAccount(`porch-demo-${login}`);
      const desktop = await startDesktop(processes, {
        ...theirs(i),
        home,
        ...(missing === undefined
          ? { computer: theirComputer(login, { folder, home, dist, ports: [port] }), camera: cameraThere }
          : { account, ...cameraFor(account) }),
      });
      if (desktop.computer && login === 'bettina') await updateDriver(desktop.computer, join(folder, 'packages'));
      // On the bridge nobody is administrator: there the desk's own have put the part that holds rights.
      if (desktop.computer && login === 'samir') await installRightsThere(desktop.computer, deskKey);
      if (desktop.computer) await hangBellThere(desktop.computer, serviceUrl, '--sign-in-screen');
      return new ScriptedCustomer({
        character: i ? samir : bettina,
        desktop,
        doorstepCommand: missing === undefined ? doorstepThere : doorstepFor(account, folder),
        account,
        ...(login === 'bettina' && missing === undefined ? { password: passwordOf(login) } : {}),
        serviceUrl,
        tell: (line) => tell(`  ${line}`),
      });
    }),
  );
}

/** Starts everything of Marrowick Ferries, each step told. What is made stays for the next start. */
export async function setStage(tell: (line: string) => void, name = 'demo'): Promise<Stage> {
  // Outside the checkout: PostgreSQL's user may not enter every folder that a developer works in.
  const mark = createHash('sha256').update(`${root} ${name}`).digest('hex').slice(0, 12);
  const folder = join('/var/tmp', `zesty-porch-${mark}`);
  mkdirSync(folder, { recursive: true, mode: 0o711 });
  const processes = new Processes(mark);
  await processes.endLeftovers();
  let postgres: RunningPostgres | undefined;
  const stop = async () => {
    await processes.stop();
    await postgres?.stop();
  };
  try {
    tell('PostgreSQL on loopback');
    postgres = await startPostgres({ folder: join(folder, 'postgres') });
    const databaseUrl = await createDatabase(postgres, 'porch');
    const ticketsKeyFile = secretFile(folder, 'tickets-key');
    const servicePort = await portNear(8420);
    const ticketsPort = await portNear(8421);
    tell('The stand-in ticket system');
    const tickets = await processes.startReady('ticket system', fileOf('tickets.mjs'), {
      TICKETS_PORT: String(ticketsPort),
      TICKETS_DATA_FILE: join(folder, 'tickets.json'),
      TICKETS_KEY_FILE: ticketsKeyFile,
      TICKETS_WEBHOOK_URL: `http://127.0.0.1:${servicePort}/api/webhooks/tickets`,
      TICKETS_HELP_URL: `http://127.0.0.1:${servicePort}/api/webhooks/help-wanted`,
    });
    tell('The stand-in mail server and text gateway');
    const postPorts = { http: await portNear(8423), smtp: await freePort(), reports: await freePort() };
    const textsKeyFile = secretFile(folder, 'texts-key');
    const post = await processes.startReady(
      'post office',
      fileOf('post.mjs'),
      postOfficeSettings(postPorts, textsKeyFile, servicePort),
    );
    tell('The stand-in directory');
    const directoryPort = await portNear(8424);
    const directorySecretFile = secretFile(folder, 'directory-secret');
    await processes.startReady(
      'directory',
      fileOf('directory.mjs'),
      directoryAppSettings(directoryPort, directorySecretFile),
    );
    tell('The service');
    const env = {
      ...deskSettings,
      PORCH_PORT: String(servicePort),
      PORCH_DATABASE_URL: databaseUrl,
      PORCH_SECRET_FILE: secretFile(folder, 'secret'),
      PORCH_TICKETS_URL: tickets.url,
      PORCH_TICKETS_KEY_FILE: ticketsKeyFile,
      ...postSettings(postPorts, textsKeyFile),
      ...directorySettings(directoryPort, directorySecretFile),
      PORCH_WEB_DIR: fileOf('web'),
      ...(existsSync(fileOf('release')) ? { PORCH_RELEASE_DIR: fileOf('release') } : {}),
      PORCH_LOG_LEVEL: 'warn',
    };
    await ensureLoaded(databaseUrl, processes, env);
    const service = await processes.startReady('service', fileOf('service.mjs'), env);
    await finishUpgrade(env).then(() => playWhatWasBefore(service.url, join(root, 'demo')));
    const customers = await startCustomers(processes, { folder, serviceUrl: service.url, env, tell });
    await Promise.all(customers.map((customer) => customer.signIn()));
    return {
      serviceUrl: service.url,
      ticketsUrl: tickets.url,
      postUrl: post.url,
      processes,
      customers,
      folder,
      stop: async () => {
        await Promise.all(customers.map((c) => c.close()));
        await stop();
      },
    };
  } catch (error) {
    await stop();
    throw error;
  }
}

/** The service makes its tables when it first starts; the desk's people are put in after that, once. */
async function ensureLoaded(databaseUrl: string, processes: Processes, env: NodeJS.ProcessEnv): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  const [row] = (await client.query<{ has: boolean }>(`SELECT to_regclass('technician') IS NOT NULL AS has`)).rows;
  await client.end();
  if (!row?.has) {
    const first = await processes.startReady('service, for its tables', fileOf('service.mjs'), {
      ...env,
      PORCH_PORT: '0',
    });
    const ended = new Promise((resolve) => first.child.once('exit', resolve));
    first.child.kill('SIGTERM');
    await ended;
  }
  await loadTechnicians(databaseUrl);
}

/** One process serves the demo, and nobody goes back: whatever its records come from, all that is new is written. */
const finishUpgrade = (env: NodeJS.ProcessEnv) =>
  promisify(execFile)(process.execPath, [fileOf('porch-admin.mjs'), 'upgrade', 'finish'], {
    env: { ...process.env, ...env },
  });

/** By which computers know this desk's leave for administrator rights. */
async function readDeskKey(env: NodeJS.ProcessEnv): Promise<string> {
  const asked = promisify(execFile)(process.execPath, [fileOf('porch-admin.mjs'), 'rights-key'], {
    env: { ...process.env, ...env },
  });
  return (await asked).stdout.trim();
}

/** The key of the stand-in ticket system, for those who play its people. */
export const readTicketsKey = (folder: string): string => readFileSync(join(folder, 'tickets-key'), 'utf8').trim();
