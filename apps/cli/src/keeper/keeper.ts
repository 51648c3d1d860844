import {
  FileTransfers,
  inBackground,
  InputLease,
  LiveConnection,
  LocalPicture,
  OLD_MS,
  RestClient,
  safeAddress,
  TechnicianDoor,
  TechnicianPicture,
  TechnicianWords,
  type LeaseState,
  type SocketLike,
} from '@porch/client';
import {
  allPermissions,
  areWordsSame,
  isEffective,
  isOver,
  standingOf,
  tellLedger,
  whyNotWith,
  type Permission,
} from '@porch/core';
import { AppError, makeKeys } from '@porch/wire';
import { createWriteStream } from 'node:fs';
import { chmod, mkdir, rename, rm, stat, open, writeFile } from 'node:fs/promises';
import { createServer, type Socket } from 'node:net';
import { basename, join } from 'node:path';
import { createInterface } from 'node:readline';
import { inflateRawSync } from 'node:zlib';
import { PNG } from 'pngjs';
import { WebSocket } from 'ws';
import { nodeExchange } from '../http-exchange.ts';
import { homeFolder, keepHead, readCredentials, socketFile } from '../home.ts';
import { Call, type Answer } from './calls.ts';

/** After the end of a session its keeper stays this long for the outcome, then goes. */
const AFTERWARDS_MS = 60 * 60_000;
const LEASE_WAIT_MS = 5_000;
/** The person at the computer is asked for each file. */
const FILE_QUESTION_MS = 180_000;

type Tell = (value: unknown) => void;

/**
 * One session kept open for a terminal. Grants belong to the key of one start of one program; so that each command need
 * not ask the customer anew, this process has the key and the connection, and commands come to it through a socket that
 * only this user can open.
 */
export class Keeper {
  readonly #connection: LiveConnection;
  readonly #look: TechnicianPicture;
  readonly #words: TechnicianWords;
  readonly #secret: TechnicianDoor;
  readonly #picture: LocalPicture;
  readonly #lease: InputLease;
  readonly #files: FileTransfers;
  #step = '';
  #painted = new Set<() => void>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#look = new TechnicianPicture(connection);
    this.#words = new TechnicianWords(connection);
    this.#secret = new TechnicianDoor(connection);
    this.#picture = new LocalPicture(connection, 0, { inflate, decodePhoto });
    this.#look.open(this.#picture);
    for (const name of ['painted', 'checked'] as const)
      this.#picture.listeners.on(name, () => this.#painted.forEach((look) => look()));
    this.#lease = new InputLease(connection, () => this.#picture.aim);
    this.#files = new FileTransfers(connection);
    connection.on('presence', (rows) => {
      this.#step = rows.find((row) => row.step)?.step ?? '';
    });
    connection.on('entry', () => {
      keepHead(connection.sessionId, connection.head);
      if (!this.#may('view-screen')) this.#look.forget();
    });
  }

  async handle(call: Call, more: Tell, signal: AbortSignal): Promise<unknown> {
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
      case 'acts':
        await this.#openLease();
        for (const act of call.acts) {
          // The person's own hand comes first: wait until it rests, then go on.
          if (this.#lease.state.name === 'paused') await this.#openLease();
          if (!this.#lease.act(act)) throw new AppError('NOT_GRANTED');
        }
        return { sent: call.acts.length };
      case 'savePicture':
        return this.#savePicture(call.file, call.waitMs);
      case 'giveFile':
        return this.#give(call.path, more);
      case 'fetchFile':
        return this.#fetch(call.path, call.folder, more);
      case 'takeFiles': {
        const offered = Object.values(state.slices.files).filter(
          (f) => f.stage === 'offered' && f.toId === participantId,
        );
        const taken: unknown[] = [];
        for (const file of offered) taken.push(await this.#take(file.id, call.folder, more));
        return taken;
      }
      case 'follow':
        return this.#follow(call.afterSeq, more, signal);
      case 'prove':
        return this.#prove(call.words, call.waitMs);
      case 'askWhoIsThere':
        await this.#atTheDoor(call.waitMs);
        this.#secret.askWhoIsThere();
        await this.#until(() => this.#isInOrOver, call.waitMs);
        return this.#door;
      case 'leave':
        if (!isOver(state))
          await this.#connection.command({ type: 'leaveSession', reason: 'left from the command line' });
        return {};
    }
  }

  close(): void {
    this.#lease.close();
    this.#look.close();
    this.#words.close();
    this.#secret.close();
    inBackground('ending transfers', this.#files.close());
    this.#connection.close();
  }

  get #isInOrOver(): boolean {
    return this.#connection.state.hasAccepted || isOver(this.#connection.state);
  }
  get #door() {
    const { state } = this.#connection;
    return { secret: this.#secret.state, isIn: state.hasAccepted && !isOver(state), isOver: isOver(state) };
  }

  /** Until the device has said what it wants, or it is too late for that. */
  #atTheDoor(waitMs: number): Promise<boolean> {
    return this.#until(
      () => ['wanted', 'wrong', 'right'].includes(this.#secret.state.name) || this.#isInOrOver,
      waitMs,
    );
  }

  /** At the door of a device: waits until it wants the words, says them, and waits for what is decided there. */
  async #prove(words: string, waitMs: number) {
    const state = () => this.#secret.state.name;
    await this.#atTheDoor(waitMs);
    if (state() !== 'wanted' && state() !== 'wrong') return this.#door;
    await this.#secret.prove(words);
    await this.#until(() => ['wrong', 'impostor'].includes(state()) || this.#isInOrOver, waitMs);
    return this.#door;
  }

  #may(permission: Permission): boolean {
    return isEffective(
      standingOf(this.#connection.state, this.#connection.participantId, permission),
      this.#connection.serviceNowMs,
    );
  }

  #status() {
    const { state, participantId, presence, status, entries } = this.#connection;
    const holder = state.holderId ? state.participants[state.holderId] : undefined;
    const isHolderThere = presence.some((p) => p.participantId === holder?.id && p.isConnected);
    return {
      sessionId: this.#connection.sessionId,
      line: status,
      phase: state.phase.name,
      ticketRef: state.ticketRef,
      purpose: state.purpose,
      customerName: state.customerName,
      step: this.#step,
      isDoorstepThere: isHolderThere && holder?.role === 'doorstep',
      /** The customer's page can show something: it can be looked at only. */
      isBrowserThere: isHolderThere && holder?.role === 'customer-page',
      isLead: state.leadId === participantId,
      /** Another Doorstep that wants to take the place of the one that is there. */
      candidateId: state.candidateId,
      permissions: allPermissions.map((permission) => ({
        permission,
        standing: standingOf(state, participantId, permission).name,
        whyNot: holder && whyNotWith(holder, permission),
      })),
      files: Object.values(state.slices.files),
      handover: state.handover,
      picture: this.#pictureNow,
      words: this.#words.words,
      areWordsCompared: areWordsSame(state, participantId),
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
        this.#painted.delete(look);
        resolve(value);
      };
      const look = () => {
        if (isTrue()) done(true);
      };
      const timer = setTimeout(() => done(false), waitMs);
      const offs = [
        this.#connection.on('entry', look),
        this.#lease.listeners.on('state', look),
        this.#secret.listeners.on('secret', look),
        this.#connection.on('failed', () => done(false)),
      ];
      this.#painted.add(look);
    });
  }

  async #openLease(): Promise<void> {
    if (!this.#may('control-input')) throw new AppError('NOT_GRANTED');
    const stateName = (): LeaseState['name'] => this.#lease.state.name;
    if (stateName() === 'closed') this.#lease.open();
    await this.#until(() => stateName() === 'open' || stateName() === 'closed', LEASE_WAIT_MS);
    if (stateName() !== 'open') throw new AppError('NOT_GRANTED');
  }

  get #pictureNow() {
    const { grid, isComplete } = this.#picture.viewer.picture;
    const { ageMs } = this.#picture.standing;
    return grid && { width: grid.width, height: grid.height, isComplete, ageMs };
  }

  async #savePicture(file: string, waitMs: number) {
    if (!this.#may('view-screen')) throw new AppError('NOT_GRANTED');
    // Complete, and vouched for by the source just now: a frozen picture is not saved as if it were today's.
    const isFresh = () =>
      (this.#picture.standing.ageMs ?? Infinity) < OLD_MS && this.#picture.viewer.picture.isComplete;
    const isGood = await this.#until(isFresh, waitMs);
    const { grid, rgba } = this.#picture.viewer.picture;
    if (!grid || !isGood) throw new AppError('NOT_PRESENT');
    const png = new PNG({ width: grid.width, height: grid.height });
    png.data = Buffer.from(rgba);
    await writeFile(file, PNG.sync.write(png));
    return { file, width: grid.width, height: grid.height };
  }

  async #give(path: string, more: Tell) {
    const { state } = this.#connection;
    if (!state.holderId) throw new AppError('NO_CONSENT_HOLDER');
    const handle = await open(path, 'r');
    try {
      const { size } = await handle.stat();
      const source = {
        name: basename(path),
        sizeBytes: size,
        async read(offset: number, length: number) {
          const bytes = new Uint8Array(length);
          const { bytesRead } = await handle.read(bytes, 0, length, offset);
          if (bytesRead !== length) throw new Error('the file became shorter');
          return bytes;
        },
      };
      const fileId = await this.#files.offer(source, state.holderId);
      return await this.#finished(fileId, more);
    } finally {
      await handle.close();
    }
  }

  async #fetch(path: string, folder: string, more: Tell) {
    const { state } = this.#connection;
    const holder = state.holderId ? state.participants[state.holderId] : undefined;
    if (!holder) throw new AppError('NO_CONSENT_HOLDER');
    if (!this.#may('fetch-files')) throw new AppError('NOT_GRANTED');
    const requestId = crypto.randomUUID();
    const fileId = await new Promise<string>((resolve, reject) => {
      const timer = setTimeout(() => reject(new AppError('NO_CONSENT_HOLDER')), FILE_QUESTION_MS);
      const off = this.#files.listeners.on('message', ({ message }) => {
        if (!('requestId' in message) || message.requestId !== requestId) return;
        off();
        clearTimeout(timer);
        if (message.type === 'fetchStarted') resolve(message.fileId);
        else reject(new FetchRefused(message.type === 'fetchRefused' ? message.why : 'it was refused'));
      });
      this.#files.tell(holder.seat, { type: 'fetch', requestId, path });
    });
    await this.#until(() => this.#connection.state.slices.files[fileId] !== undefined, LEASE_WAIT_MS * 4);
    return this.#take(fileId, folder, more);
  }

  async #take(fileId: string, folder: string, more: Tell) {
    const file = this.#connection.state.slices.files[fileId];
    if (!file) throw new AppError('FILE_NOT_OPEN');
    await mkdir(folder, { recursive: true });
    const path = join(folder, file.name ?? 'unnamed');
    if (
      await stat(path).then(
        () => true,
        () => false,
      )
    )
      throw new AppError('INVALID_REQUEST', { path });
    const part = `${path}.part`;
    const stream = createWriteStream(part, { mode: 0o600 });
    await this.#files.accept(fileId, {
      write: (bytes) =>
        new Promise((resolve, reject) => stream.write(bytes, (error) => (error ? reject(error) : resolve()))),
      finish: async () => {
        await new Promise<void>((resolve) => stream.end(() => resolve()));
        await rename(part, path);
      },
      discard: async () => {
        stream.destroy();
        await rm(part, { force: true });
      },
    });
    return { ...(await this.#finished(fileId, more)), path };
  }

  async #finished(fileId: string, more: Tell) {
    const off = this.#files.listeners.on('progress', (progress) => {
      if (progress.fileId === fileId) more(progress);
    });
    const stage = () => this.#connection.state.slices.files[fileId]?.stage ?? 'failed';
    await this.#until(() => stage() !== 'offered' && stage() !== 'moving', 24 * 60 * 60_000);
    off();
    return {
      fileId,
      stage: stage(),
      name: this.#connection.state.slices.files[fileId]?.name,
      sha256: this.#connection.state.slices.files[fileId]?.sha256,
    };
  }

  #follow(afterSeq: number, more: Tell, signal: AbortSignal): Promise<unknown> {
    const tell = (from: number) => {
      for (const entry of tellLedger(this.#connection.entries, 'technician').slice(from))
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

const inflate = (bytes: Uint8Array, sizeBytes: number) => inflateRawSync(bytes, { maxOutputLength: sizeBytes });

async function decodePhoto(jpeg: Uint8Array) {
  const { decode } = await import('jpeg-js');
  const { width, height, data } = decode(jpeg, { useTArray: true, maxMemoryUsageInMB: 64, maxResolutionInMP: 70 });
  return { width, height, rgba: data };
}

/** Doorstep said no to a file, in its own words. */
class FetchRefused extends Error {}

/** Keeps one session open until it is over, answering calls on its socket. */
export async function runKeeper(sessionId: string): Promise<void> {
  const { url, token } = readCredentials();
  const rest = new RestClient(nodeExchange(url), token);
  const connection = new LiveConnection({
    pass: () => rest.livePass(sessionId),
    openSocket: (liveUrl) => new WebSocket(safeAddress(liveUrl)) as unknown as SocketLike,
    keys: makeKeys(),
  });
  const keeper = new Keeper(connection);
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
          const call = Call.parse(JSON.parse(line));
          tell({ is: 'done', value: await keeper.handle(call, (value) => tell({ is: 'more', value }), gone.signal) });
          if (call.call === 'leave') onLeft();
        } catch (error) {
          const code =
            error instanceof AppError ? error.code : error instanceof FetchRefused ? 'REFUSED_THERE' : 'INTERNAL';
          tell({ is: 'refused', code, message: String((error as Error).message) });
        }
      })(),
    );
  });
}
