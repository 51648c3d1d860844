import {
  customerStep,
  inBackground,
  LiveConnection,
  isHolderThere,
  PlannedAsks,
  ReturnAsks,
  RestClient,
  safeAddress,
  type SocketLike,
  RefusedThere,
} from '@porch/client';
import { nodeCiphers } from '@porch/client/node';
import {
  consentHolderOf,
  allPermissions,
  isEffective,
  isOver,
  leadOf,
  standingOf,
  tellToTechnicians,
  whyNotWith,
  type Permission,
} from '@porch/core';
import { AppError, makeKeys } from '@porch/wire';
import { chmod, mkdir, rm } from 'node:fs/promises';
import { createServer, type Socket } from 'node:net';
import { createInterface } from 'node:readline';
import { WebSocket } from 'ws';
import type { CallTable, KeeperKit, Kept, KeptAbility, Tell } from '../abilities/cli-ability.ts';
import { keptAbilities } from '../abilities/kept.ts';
import { nodeExchange } from '../http-exchange.ts';
import { homeFolder, keepHead, readCredentials, socketFile } from '../home.ts';
import { isAbilityCall, readCall, type Answer, type Call, type KernelCall } from './calls.ts';
import { book } from '../words.ts';

/** After the end of a session its keeper stays this long for the outcome, then goes. */
const AFTERWARDS_MS = 60 * 60_000;

type PlainKept = KeptAbility<CallTable, Kept>;
const abilities = keptAbilities as unknown as readonly PlainKept[];

/**
 * One session kept open for a terminal. Grants belong to the key of one start of one program; so that each command need
 * not ask the customer anew, this process has the key and the connection, and commands come to it through a socket that
 * only this user can open.
 */
export class Keeper {
  readonly #connection: LiveConnection;
  readonly #kept = new Map<PlainKept, Kept>();
  readonly #kit: KeeperKit;
  readonly #planned: PlannedAsks;
  readonly #returning: ReturnAsks;
  readonly #waiting = new Set<() => void>();

  constructor(connection: LiveConnection, rest: RestClient) {
    this.#connection = connection;
    this.#kit = {
      connection,
      rest,
      may: (permission) => this.#may(permission),
      need: (permission) => {
        if (!this.#may(permission)) throw new AppError('NOT_GRANTED');
      },
      until: (isTrue, waitMs) => this.#until(isTrue, waitMs),
      changed: () => this.#waiting.forEach((look) => look()),
      kept: (ability) => this.#keptOf(ability as unknown as PlainKept) as never,
    };
    for (const ability of abilities) this.#keptOf(ability);
    // Whoever asks by hand hears why it is not asked.
    this.#planned = new PlannedAsks(connection, () => undefined);
    this.#returning = new ReturnAsks(connection, () => undefined);
    connection.on('entry', () => keepHead(connection.sessionId, connection.head));
  }

  #keptOf(ability: PlainKept): Kept {
    const known = this.#kept.get(ability);
    if (known) return known;
    const made = ability.begin(this.#kit);
    this.#kept.set(ability, made);
    return made;
  }

  async handle(call: Call, more: Tell, signal: AbortSignal): Promise<unknown> {
    if (!isAbilityCall(call)) return this.#handleKernel(call as KernelCall, more, signal);
    const ability = abilities.find(({ calls }) => Object.hasOwn(calls, call.call));
    return ability?.answer[call.call]?.(this.#keptOf(ability), call as never, more, signal);
  }

  async #handleKernel(call: KernelCall, more: Tell, signal: AbortSignal): Promise<unknown> {
    const { state, participantId } = this.#connection;
    switch (call.call) {
      case 'status':
        return this.#status();
      case 'command':
        await this.#connection.command(call.command);
        return {};
      case 'aside':
        await this.#connection.aside(call.text);
        return {};
      case 'ask':
        return this.#ask(call.permissions, call.waitMs);
      case 'giveBack':
        await this.#connection.command({
          type: 'withdrawPermission',
          participantId,
          permission: call.permission,
          why: 'given back',
          fact: undefined,
        });
        return {};
      case 'follow':
        return this.#follow(call.afterSeq, more, signal);
      case 'leave':
        if (!isOver(state))
          await this.#connection.command({ type: 'leaveSession', reason: 'left from the command line' });
        return {};
    }
  }

  close(): void {
    this.#planned.close();
    this.#returning.close();
    for (const kept of [...this.#kept.values()].reverse()) kept.close();
    this.#connection.close();
  }

  #may(permission: Permission): boolean {
    return isEffective(
      standingOf(this.#connection.state, this.#connection.participantId, permission),
      this.#connection.serviceNowMs,
    );
  }

  #status() {
    const { state, participantId, status, entries } = this.#connection;
    const holder = consentHolderOf(state);
    const isThere = isHolderThere(this.#connection);
    return {
      sessionId: this.#connection.sessionId,
      line: status,
      phase: state.phase.name,
      ticketRef: state.ticketRef,
      purpose: state.purpose,
      customerName: state.customerName,
      step: customerStep(this.#connection.state, this.#connection.presence) ?? '',
      isDoorstepThere: isThere && holder?.part === 'doorstep',
      /** The customer's page can show something: it can be looked at only. */
      isBrowserThere: isThere && holder?.part === 'page',
      isLead: leadOf(state)?.id === participantId,
      /** Another Doorstep that wants to take the place of the one that is there. */
      candidateId: state.candidateId,
      permissions: allPermissions.map((permission) => ({
        permission,
        standing: standingOf(state, participantId, permission).name,
        whyNot: holder && whyNotWith(holder, permission),
      })),
      handover: state.handover,
      ...Object.assign({}, ...[...this.#kept.values()].map((kept) => kept.status?.())),
      entries: entries.length,
    };
  }

  async #ask(permissions: Permission[], waitMs: number) {
    await this.#connection.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
    const standings = () =>
      permissions.map((permission) => ({
        permission,
        standing: standingOf(this.#connection.state, this.#connection.participantId, permission).name,
      }));
    await this.#until(() => standings().every((s) => s.standing !== 'waiting'), waitMs);
    return standings();
  }

  /** Resolves when `isTrue`, looked at after each entry, or after `waitMs`. */
  #until(isTrue: () => boolean, waitMs: number): Promise<boolean> {
    if (isTrue()) return Promise.resolve(true);
    return new Promise((resolve) => {
      const done = (value: boolean) => {
        offs.forEach((off) => off());
        clearTimeout(timer);
        this.#waiting.delete(look);
        resolve(value);
      };
      const look = () => {
        if (isTrue()) done(true);
      };
      const timer = setTimeout(() => done(false), waitMs);
      const offs = [this.#connection.on('entry', look), this.#connection.on('failed', () => done(false))];
      this.#waiting.add(look);
    });
  }

  #follow(afterSeq: number, more: Tell, signal: AbortSignal): Promise<unknown> {
    const tell = (from: number) => {
      for (const entry of tellToTechnicians(this.#connection.entries, book).slice(from))
        more({ seq: entry.seq, atMs: entry.atMs, type: entry.event.type, who: entry.who, sentence: entry.sentence });
      return this.#connection.entries.length;
    };
    let told = tell(afterSeq);
    return new Promise((resolve) => {
      const off = this.#connection.on('entry', () => {
        told = tell(told);
        if (this.#connection.state.phase.name === 'logged') finish();
      });
      const finish = () => {
        off();
        resolve({ entries: told });
      };
      signal.addEventListener('abort', finish);
      if (this.#connection.state.phase.name === 'logged') finish();
    });
  }
}

/** Keeps one session open until it is over, answering calls on its socket. */
export async function runKeeper(sessionId: string): Promise<void> {
  const { url, token } = readCredentials();
  const rest = new RestClient(nodeExchange(url), token);
  const connection = new LiveConnection({
    pass: () => rest.livePass(sessionId),
    openSocket: (liveUrl) => new WebSocket(safeAddress(liveUrl)) as unknown as SocketLike,
    keys: makeKeys(),
    ciphers: nodeCiphers,
  });
  const keeper = new Keeper(connection, rest);
  const path = socketFile(sessionId);
  await mkdir(homeFolder(), { recursive: true, mode: 0o700 });
  await rm(path, { force: true });
  const stop = () => {
    keeper.close();
    server.close();
    rm(path, { force: true }).then(
      () => process.exit(0),
      () => process.exit(1),
    );
  };
  const server = createServer((socket) => serve(socket, keeper, () => setTimeout(stop, 50)));
  connection.on('failed', () => setTimeout(stop, 200));
  let afterwards: ReturnType<typeof setTimeout> | undefined;
  connection.on('entry', () => {
    if (isOver(connection.state)) afterwards ??= setTimeout(stop, AFTERWARDS_MS);
    if (connection.state.phase.name === 'logged') setTimeout(stop, 500);
  });
  for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, stop);
  await connection.ready();
  await new Promise<void>((resolve) => server.listen(path, resolve));
  await chmod(path, 0o600);
  process.stdout.write('ready\n');
}

function serve(socket: Socket, keeper: Keeper, onLeft: () => void): void {
  const gone = new AbortController();
  socket.on('close', () => gone.abort());
  socket.on('error', () => gone.abort());
  const tell = (answer: Answer) => void (socket.writable && socket.write(`${JSON.stringify(answer)}\n`));
  createInterface({ input: socket }).on('line', (line) => {
    inBackground(
      'a call',
      (async () => {
        try {
          const call = readCall(line);
          tell({ is: 'done', value: await keeper.handle(call, (value) => tell({ is: 'more', value }), gone.signal) });
          if (call.call === 'leave') onLeft();
        } catch (error) {
          const code =
            error instanceof AppError ? error.code : error instanceof RefusedThere ? 'REFUSED_THERE' : 'INTERNAL';
          tell({ is: 'refused', code, message: String((error as Error).message) });
        }
      })(),
    );
  });
}
