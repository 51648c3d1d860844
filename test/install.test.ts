import { fetchExchange, LiveConnection, RestClient, verifyRows, type SocketLike } from '@porch/client';
import { createDatabase, freePort, Processes } from '@porch/demo';
import { until } from '@porch/testkit';
import { makeKeys } from '@porch/wire';
import { execFileSync, spawnSync, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:https';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { WebSocket } from 'ws';

/* docs/install.md, followed as an operator would, with the very blocks that stand in it; only folders and ports are others. */
const HOST = 'help.marrowick.example';
const EMAIL = 'odalys.brandt@marrowick.example';
const PASSWORD = 'the first password of this desk';
const READY_MS = 30_000;

const page = readFileSync(join(inject('root'), 'docs', 'install.md'), 'utf8');
/** The block of this language that holds these words. */
function block(language: string, words: string): string {
  const found = [...page.matchAll(/^```(\w+)\n([\s\S]*?)^```/gm)].find(
    ([, l, text]) => l === language && text?.includes(words),
  );
  if (!found?.[2]) throw new Error(`docs/install.md has no ${language} block with “${words}”`);
  return found[2];
}

const mark = randomBytes(6).toString('hex');
const folder = join(inject('folder'), `install-${mark}`);
const place = join(folder, 'opt');
const certificates = join(folder, 'tls');
/** What this machine's operator has, be it the Node of the releases or an older one that works, too. */
const node = process.env['TESTS_OTHER_NODE'] ?? process.execPath;
const processes = new Processes(mark, node);
let settings: Record<string, string> = {};
let databaseUrl = '';
let service: ChildProcess | undefined;
let servicePort = 0;

const at = (name: string) => join(folder, name);
function elsewhere(text: string): string {
  return text
    .replaceAll('/opt/zesty-porch', place)
    .replaceAll('/etc/zesty-porch', folder)
    .replaceAll('/etc/ssl/porch', certificates)
    .replaceAll('127.0.0.1:8420', `127.0.0.1:${servicePort}`);
}
const admin = (args: readonly string[], input = '') =>
  spawnSync(node, [join(place, 'dist', 'porch-admin.mjs'), ...args], {
    env: { PATH: process.env['PATH'], ...settings },
    input,
    encoding: 'utf8',
  });
async function startService(): Promise<void> {
  const env = { ...settings, NODE_ENV: 'production' };
  service = (await processes.startReady('service', join(place, 'dist', 'service.mjs'), env)).child;
}
async function stopService(): Promise<void> {
  const ended = new Promise((resolve) => service?.once('exit', resolve));
  service?.kill('SIGTERM');
  await ended;
}
const postgresProgram = (name: string) => {
  const [version] = readdirSync('/usr/lib/postgresql').sort().reverse();
  return join('/usr/lib/postgresql', version ?? '', 'bin', name);
};

/** A browser that looks our name up as this machine, and trusts our certificate. */
class Browser {
  readonly #port: number;
  readonly #ca = readFileSync(join(certificates, 'fullchain.pem'));
  cookies: string[] = [];
  headers: NodeJS.Dict<string | string[]> = {};

  constructor(port: number) {
    this.#port = port;
  }
  get options() {
    return { host: '127.0.0.1', port: this.#port, servername: HOST, ca: this.#ca };
  }
  exchange = (method: string, path: string, headers: Readonly<Record<string, string>>, body?: string) =>
    new Promise<{ status: number; body: string }>((resolve, reject) => {
      const cookie = this.cookies.map((c) => c.split(';')[0]).join('; ');
      const asked = request(
        { ...this.options, method, path, headers: { ...headers, host: HOST, ...(cookie ? { cookie } : {}) } },
        (answer) => {
          this.headers = answer.headers;
          this.cookies = answer.headers['set-cookie'] ?? this.cookies;
          let text = '';
          answer.on('data', (part: Buffer) => (text += part.toString()));
          answer.on('end', () => resolve({ status: answer.statusCode ?? 0, body: text }));
        },
      );
      asked.on('error', reject);
      asked.end(body);
    });
  live(pass: () => ReturnType<RestClient['livePass']>): Promise<LiveConnection> {
    return new LiveConnection({
      pass,
      openSocket: (url) => {
        expect(url, 'the public address decides').toBe(`wss://${HOST}/live`);
        const socket = new WebSocket(url, { agent: new Agent(this.options), host: HOST });
        return socket as unknown as SocketLike;
      },
      keys: makeKeys(),
    }).ready();
  }
}

beforeAll(async () => {
  mkdirSync(certificates, { recursive: true });
  mkdirSync(place, { recursive: true });
  servicePort = await freePort();
  // What was built is there already; the rest as it stands.
  const build = block('sh', 'npm ci --omit=dev').replace(/^npm ci && npm run build\n/, '');
  execFileSync('bash', ['-ec', elsewhere(build)], { cwd: inject('root'), stdio: 'pipe' });
  execFileSync('sh', ['-ec', `umask 077; openssl rand -hex 32 > ${at('secret')}`]);
  databaseUrl = await createDatabase(
    {
      url: '',
      port: 0,
      stop: () => Promise.resolve(),
      urlFor: (name) => inject('postgresUrl').replace(/\/postgres$/, `/${name}`),
    },
    mark,
  );
  settings = {
    ...Object.fromEntries(
      elsewhere(block('sh', 'PORCH_PUBLIC_URL='))
        .trim()
        .split('\n')
        .map((line) => [line.slice(0, line.indexOf('=')), line.slice(line.indexOf('=') + 1)]),
    ),
    PORCH_DATABASE_URL: databaseUrl,
    PORCH_PORT: String(servicePort),
  };
  execFileSync(
    'openssl',
    ['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes', '-days', '2'].concat(
      ['-subj', `/CN=${HOST}`, '-addext', `subjectAltName=DNS:${HOST}`],
      ['-keyout', join(certificates, 'key.pem'), '-out', join(certificates, 'fullchain.pem')],
    ),
    { stdio: 'pipe' },
  );
  const both = ['fullchain.pem', 'key.pem'].map((name) => readFileSync(join(certificates, name), 'utf8'));
  writeFileSync(join(certificates, 'both.pem'), both.join(''));
}, 180_000);
afterAll(() => processes.stop());

it('has what runs and nothing more: no tool of ours, no source', () => {
  expect(existsSync(join(place, 'node_modules', 'fastify'))).toBe(true);
  for (const tool of ['typescript', 'vite', 'vitest', 'playwright-core', 'esbuild'])
    expect(existsSync(join(place, 'node_modules', tool)), tool).toBe(false);
  expect(readFileSync(join(place, 'dist', 'third-party-notices.txt'), 'utf8')).toMatch(/^fastify \d/m);
  expect(readFileSync(join(place, 'dist', 'sbom.json'), 'utf8')).toContain('CycloneDX');
});

it('goes from an empty database to a first technician with what the page says', async () => {
  expect(admin(['check']).stdout).toContain('porch-admin migrate');
  expect(admin(['migrate']).stdout).toContain('Done');
  const who = ['--name', 'Odalys Brandt', '--email', EMAIL, '--team', 'Desk', '--role', 'lead', '--password-stdin'];
  expect(admin(['technician', 'add', ...who], PASSWORD).status).toBe(0);
  await startService();
  expect((await fetch(`http://127.0.0.1:${servicePort}/readyz`)).status).toBe(200);
});

describe.each(['nginx', 'haproxy'])('behind %s', (proxy) => {
  it('speaks TLS and WebSocket, and keeps its cookies to itself', async () => {
    const port = await freePort();
    const config = at(`${proxy}.conf`);
    const text = elsewhere(block(proxy, proxy === 'nginx' ? 'listen 443' : 'frontend')).replace(
      /\b443\b/,
      String(port),
    );
    if (proxy === 'nginx') {
      const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((t) => `${t}_temp_path ${at(t)};`);
      const around = `access_log off; ${temporary.join(' ')}`;
      writeFileSync(
        config,
        `daemon off; pid ${at('nginx.pid')}; error_log stderr error; events {}\nhttp { ${around}\n${text}}\n`,
      );
    } else writeFileSync(config, text);
    const args = proxy === 'nginx' ? ['-e', 'stderr', '-c', config] : ['-db', '-q', '-f', config];
    processes.start(proxy, `/usr/sbin/${proxy}`, args, { stdio: ['ignore', 'ignore', 'inherit'] });
    const pim = new Browser(port);
    await until(
      'it to listen',
      () =>
        pim.exchange('GET', '/', {}).then(
          ({ status }) => status === 200,
          () => false,
        ),
      READY_MS,
    );
    expect(pim.headers['strict-transport-security']).toContain('max-age');
    const rest = new RestClient(pim.exchange);
    await rest.signIn(EMAIL, PASSWORD, 'cookie');
    expect(pim.cookies[0]).toMatch(/^__Host-porch_console=.*; Path=\/; HttpOnly; Secure; SameSite=Strict/);
    const { session, link } = await rest.start({});
    expect(link).toContain(`https://${HOST}/join/`);
    const technician = await pim.live(() => rest.livePass(session.id));
    const bettina = new Browser(port);
    const door = new RestClient(bettina.exchange);
    await door.join({ link: link.split('/').at(-1) ?? '', as: 'page' });
    expect(bettina.cookies[0]).toMatch(/^__Host-porch_door=/);
    const customer = await bettina.live(() => door.doorLive());
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: `Good morning by ${proxy}.` });
    await until('the word to come through', () => customer.entries.some((e) => e.event.type === 'chatSent'));
    expect((await pim.exchange('GET', '/metrics', {})).status, 'numbers are for this machine alone').toBe(404);
    for (const live of [technician, customer]) live.close();
  });
});

it('is kept, lost, brought back, and is the same', async () => {
  const rest = new RestClient(fetchExchange(`http://127.0.0.1:${servicePort}`));
  rest.token = (await rest.signIn(EMAIL, PASSWORD, 'token')).token;
  const [session] = await rest.sessions('');
  const before = await rest.ledger(session?.id ?? '');
  const dump = at('porch.dump');
  execFileSync(postgresProgram('pg_dump'), ['--format=custom', '--file', dump, databaseUrl]);
  await stopService();
  execFileSync(postgresProgram('psql'), [databaseUrl, '-qc', 'TRUNCATE "session", "ledger_row", "technician" CASCADE']);
  execFileSync(postgresProgram('pg_restore'), ['--clean', '--dbname', databaseUrl, dump]);
  await startService();
  rest.token = (await rest.signIn(EMAIL, PASSWORD, 'token')).token;
  const after = await rest.ledger(session?.id ?? '');
  expect(after.rows).toEqual(before.rows);
  expect(verifyRows(after.rows).isWhole).toBe(true);
});

it('has its secret rotated: what was made before goes on, once', async () => {
  const rest = new RestClient(fetchExchange(`http://127.0.0.1:${servicePort}`));
  rest.token = (await rest.signIn(EMAIL, PASSWORD, 'token')).token;
  const { link } = await rest.start({ sessionId: crypto.randomUUID() });
  expect(admin(['secret', 'rotate']).status).toBe(0);
  await stopService();
  await startService();
  const door = new RestClient(fetchExchange(`http://127.0.0.1:${servicePort}`));
  await door.join({ link: link.split('/').at(-1) ?? '', as: 'doorstep' });
});

it('goes back to a release that knows what is written, and to no other; then it says what to do', async () => {
  await stopService();
  const psql = (sql: string) => execFileSync(postgresProgram('psql'), [databaseUrl, '-qc', sql]);
  psql(`INSERT INTO "migrations" ("timestamp", "name") VALUES (9999999999999, 'OfTheNextRelease9999999999999')`);
  // Tables that a newer release only added to are no hindrance until its upgrade is finished.
  await startService();
  await stopService();
  psql(`UPDATE "records_level" SET "level" = "level" + 1`);
  await expect(startService()).rejects.toThrow(/of a newer release \(OfTheNextRelease.*bring back what was kept/);
  expect(admin(['migrate']).stderr).toContain('newer release');
  psql(`UPDATE "records_level" SET "level" = "level" - 1`);
  psql(`DELETE FROM "migrations" WHERE "name" LIKE 'OfTheNext%'`);
  await startService();
});

it.skipIf(!existsSync('/usr/bin/systemd-analyze'))('has a unit that is right and hardened', () => {
  const unit = at('zesty-porch.service');
  const text = elsewhere(block('ini', '[Service]'))
    .replace('/usr/bin/node', process.execPath)
    .replace('User=porch', 'User=www-data');
  writeFileSync(unit, text);
  const verified = spawnSync('systemd-analyze', ['verify', '--man=no', unit], { encoding: 'utf8' });
  expect([verified.status, verified.stderr.split('\n').filter((line) => line.includes('zesty-porch'))]).toEqual([
    0,
    [],
  ]);
  const scored = spawnSync('systemd-analyze', ['security', '--offline=true', '--no-pager', unit], { encoding: 'utf8' });
  expect(Number(/Overall exposure level.*: ([\d.]+)/.exec(scored.stdout)?.[1])).toBeLessThan(5);
});
