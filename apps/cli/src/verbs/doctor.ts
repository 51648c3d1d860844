import { RestClient, safeAddress } from '@porch/client';
import { AppError } from '@porch/wire';
import { existsSync, statSync } from 'node:fs';
import { WebSocket } from 'ws';
import { exitCodes } from '../exit-codes.ts';
import { credentialsOf, homeFolder, sessionOfSocket, socketsHere, type Credentials } from '../home.ts';
import { nodeExchange } from '../http-exchange.ts';
import { isAlive } from '../keeper/call-keeper.ts';
import { printList } from '../print.ts';
import type { CommonOptions } from './common.ts';

interface Finding {
  readonly what: string;
  readonly isWell: boolean;
  /** What is so, or what to do. */
  readonly words: string;
}

const LEAST_NODE = 20;
const MOST_CLOCK_MS = 30_000;
const ANSWER_MS = 8_000;
const DAY_MS = 86_400_000;

/** Whether this terminal can do its work, one thing after the other, and what to do about what it cannot. */
export async function doctor(options: CommonOptions): Promise<void> {
  const found: Finding[] = [];
  const say = (what: string, isWell: boolean, words: string) => void found.push({ what, isWell, words });
  lookHere(say);
  const credentials = credentialsOf(process.env['PORCH_PROFILE'] || undefined);
  say(
    'sign-in',
    credentials !== undefined,
    credentials
      ? `${credentials.name} at ${credentials.url}`
      : 'none; say: porch sign-in --service URL --email ADDRESS',
  );
  if (credentials) await lookThere(credentials, say);
  await lookAtOpenSessions(say);
  printList(
    { items: found },
    options,
    [
      ['STATE', ({ isWell }) => (isWell ? 'well' : 'LOOK')],
      ['WHAT', ({ what }) => what],
      ['SO IT IS', ({ words }) => words],
    ],
    '',
  );
  if (found.some(({ isWell }) => !isWell)) process.exitCode = exitCodes.refused;
}

type Say = (what: string, isWell: boolean, words: string) => void;

function lookHere(say: Say): void {
  const node = Number(process.versions.node.split('.')[0]);
  say(
    'node',
    node >= LEAST_NODE,
    node >= LEAST_NODE ? process.versions.node : `${process.versions.node} is too old; ${LEAST_NODE} or later`,
  );
  const folder = homeFolder();
  const mode = existsSync(folder) ? statSync(folder).mode & 0o077 : 0;
  say('home', mode === 0, mode === 0 ? folder : `others may read ${folder}; say: chmod 700 ${folder}`);
  const locale = process.env['LC_ALL'] ?? process.env['LC_CTYPE'] ?? process.env['LANG'] ?? '';
  const isUtf8 = /utf-?8/i.test(locale);
  say(
    'characters',
    isUtf8,
    isUtf8 ? locale : 'the locale is not UTF-8, so names may look wrong; say: export LANG=C.UTF-8',
  );
}

async function lookThere({ url, token }: Credentials, say: Say): Promise<void> {
  let address: string;
  try {
    address = safeAddress(url);
  } catch (error) {
    return say('address', false, (error as Error).message);
  }
  const client = new RestClient(nodeExchange(address), token);
  const askedAtMs = Date.now();
  try {
    const mine = (await client.signIns()).find(({ isThisOne }) => isThisOne);
    say('service', true, `answers in ${Date.now() - askedAtMs} ms`);
    const days = Math.floor(((mine?.expiresAtMs ?? 0) - Date.now()) / DAY_MS);
    say(
      'sign-in lasts',
      mine !== undefined,
      `${days > 0 ? `${days} more days` : 'less than a day'}; after it: porch sign-in`,
    );
    const apartMs = Math.abs((await client.porch()).nowMs - Date.now());
    const isTogether = apartMs < MOST_CLOCK_MS;
    say(
      'clock',
      isTogether,
      isTogether ? 'the same as there' : `${Math.round(apartMs / 1000)} s from the service’s; set it by NTP`,
    );
    say('live line', ...(await lookAtLine(address)));
  } catch (error) {
    if (error instanceof AppError && error.code === 'SIGN_IN_NEEDED')
      say('sign-in lasts', false, 'it has ended; say: porch sign-in');
    else say('service', false, `${(error as Error).message}; is ${url} right, and does a proxy stand between?`);
  }
}

/** A line without a pass is refused by the service itself; anything else that answers stands between. */
async function lookAtLine(address: string): Promise<[isWell: boolean, words: string]> {
  const socket = new WebSocket(`${address.replace(/^http/, 'ws').replace(/\/$/, '')}/live`, {
    handshakeTimeout: ANSWER_MS,
  });
  return new Promise((resolve) => {
    socket.on('open', () => {
      socket.terminate();
      resolve([true, 'opens']);
    });
    socket.on('error', (error) =>
      resolve([false, `does not open (${error.message}); a proxy has to let WebSockets through`]),
    );
  });
}

async function lookAtOpenSessions(say: Say): Promise<void> {
  const sockets = socketsHere();
  const dead: string[] = [];
  for (const path of sockets) if (!(await isAlive(path))) dead.push(sessionOfSocket(path));
  say(
    'open sessions',
    dead.length === 0,
    dead.length
      ? `${dead.join(', ')}: nothing keeps them any more; say: porch open ${dead[0] ?? ''}`
      : `${sockets.length}`,
  );
}
