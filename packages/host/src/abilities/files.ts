import { speechOf } from '@porch/words';
import { host } from '@porch/words/host';
import { FileTransfers, inBackground, type LiveConnection } from '@porch/client';
import { participantAt, type Language, type Participant } from '@porch/core';
import { AppError, randomId } from '@porch/wire';
import { hints } from '../consent/questions.ts';
import type { Lease } from '../consent/held.ts';
import type { HostAbility, Kit } from '../kit.ts';
import { isMissingFile, type FilesPort, type FoundFile } from '../ports/files-port.ts';
import { whyWithout } from '../ports/host-ports.ts';
import type { Question } from '../ports/question.ts';

/** Takes files that a technician gives, and sends those that they may fetch. */
export const files: HostAbility = {
  name: 'files',
  whyNot: (_permission, ports) => whyWithout(ports, 'files'),
  warn: ({ permission, words }) => (permission === 'fetch-files' ? words.files.leaves : undefined),
  begin(kit) {
    const port = kit.ports.files;
    if (!port) return { close: () => undefined };
    const desk = new FileDesk(kit, port);
    return { changed: () => desk.check(), close: () => desk.close() };
  },
};

/** Files that may be asked for before the first of them is answered. */
const MAX_FETCHES_WAITING = 8;

/** Files between this computer and technicians: each direction only with a grant of our own. */
class FileDesk {
  readonly #kit: Kit;
  readonly #port: FilesPort;
  readonly #connection: LiveConnection;
  readonly #transfers: FileTransfers;
  readonly #seen = new Set<string>();
  /** Folders of which the person here said that any file may be fetched, for one technician's key. */
  readonly #folders = new Set<string>();
  #fetchesWaiting = 0;
  /** Where those lie that have arrived, and whose they were. */
  readonly #arrived = new Map<string, { readonly path: string; readonly signKey: string }>();
  readonly #open = new Map<string, { close(): Promise<void> }>();
  /** What lets each file be on its way. */
  readonly #leases = new Map<string, Lease>();
  readonly #offs: (() => void)[];

  constructor(kit: Kit, port: FilesPort) {
    this.#kit = kit;
    this.#port = port;
    this.#connection = kit.connection;
    this.#transfers = new FileTransfers(kit.connection);
    kit.shared.arrivedFile = (fileId, signKey) => {
      const file = this.#arrived.get(fileId);
      return file?.signKey === signKey ? file.path : undefined;
    };
    this.#offs = [
      kit.connection.on('entry', () => this.#follow()),
      this.#transfers.listeners.on('message', ({ fromSeat, message }) => {
        if (message.type === 'fetch') this.#fetchInTurn(fromSeat, message.requestId, message.path);
      }),
    ];
  }

  /** Ends whatever is on its way without leave any longer. Called at every change of what is allowed. */
  check(): void {
    for (const { fileId } of this.#transfers.moving) {
      if (this.#leases.get(fileId)?.isRunning) continue;
      this.#transfers.stop(fileId);
      this.#leases.delete(fileId);
      inBackground('closing a file', this.#closeSource(fileId));
    }
  }

  async close(): Promise<void> {
    this.#offs.forEach((off) => off());
    await this.#transfers.close();
    await Promise.all([...this.#open.keys()].map((fileId) => this.#closeSource(fileId)));
  }

  async #closeSource(fileId: string): Promise<void> {
    const source = this.#open.get(fileId);
    this.#open.delete(fileId);
    this.#leases.delete(fileId);
    await source?.close().catch((error: unknown) => this.#kit.log.warn({ why: String(error) }, 'a file stays open'));
  }

  /** One question at a time, and few that wait: a technician cannot bury the person in them. */
  #fetchInTurn(fromSeat: number, requestId: string, path: string): void {
    if (this.#fetchesWaiting >= MAX_FETCHES_WAITING) {
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: 'too many files are asked for at once' });
      return;
    }
    this.#fetchesWaiting++;
    this.#fetch(fromSeat, requestId, path)
      .catch((error: unknown) => this.#kit.log.warn({ why: String(error) }, 'a file could not be fetched'))
      .finally(() => this.#fetchesWaiting--);
  }

  #follow(): void {
    const { log } = this.#kit;
    for (const file of Object.values(this.#connection.state.slices.files)) {
      if (file.stage === 'offered' && file.toId === this.#connection.participantId && !this.#seen.has(file.id)) {
        this.#seen.add(file.id);
        this.#offered(file.id).catch((error: unknown) => log.warn({ why: String(error) }, 'a file could not be taken'));
      }
      if (file.stage !== 'offered' && file.stage !== 'moving') {
        inBackground('closing a file', this.#closeSource(file.id));
      }
    }
  }

  async #offered(fileId: string): Promise<void> {
    const { state } = this.#connection;
    const file = state.slices.files[fileId];
    const technician = file && state.participants[file.fromId];
    if (!file || !technician) return;
    const lease = this.#kit.held.during('give-files', technician.signKey);
    const question = questionForFile(technician.name, file.name ?? 'a file', file.sizeBytes, state.language);
    const answer = lease.isRunning && (await this.#kit.ask(question));
    if (this.#connection.state.slices.files[fileId]?.stage !== 'offered') return;
    if (!answer || answer.what !== 'yes' || !lease.isRunning) return this.#transfers.refuse(fileId);
    this.#leases.set(fileId, lease);
    const { signKey } = technician;
    const onArrived = (path: string) => void this.#arrived.set(fileId, { path, signKey });
    await this.#transfers.accept(fileId, await this.#port.sinkFor(file.name ?? 'unnamed', onArrived));
  }

  /** Asked by name, one question for each, unless the person here said that any in this folder is fine. */
  async #mayFetch(technician: Participant, { folder, shownPath, sizeBytes }: FoundFile): Promise<boolean> {
    const key = `${technician.signKey} ${folder}`;
    if (this.#folders.has(key)) return true;
    const about = { technician: technician.name ?? '', path: shownPath, sizeBytes };
    const answer = await this.#kit.ask(questionForFetch(about, this.#connection.state.language));
    if (answer?.what !== 'yes') return false;
    if (answer.choices[0]) this.#folders.add(key);
    return true;
  }

  /** A technician asks for a file by its path: only with leave to fetch, and never what the port keeps back. */
  async #fetch(fromSeat: number, requestId: string, path: string): Promise<void> {
    const technician = participantAt(this.#connection.state, fromSeat);
    const refuse = (why: string) =>
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: why.slice(0, 120) });
    const lease = technician && this.#kit.held.during('fetch-files', technician.signKey);
    if (!technician || !lease?.isRunning) return refuse('the customer has not allowed it');
    let fileId: string | undefined;
    try {
      const found = await this.#port.find(path);
      if (found.whyNever !== undefined) return refuse(`this is never sent: ${found.whyNever}`);
      if (!(await this.#mayFetch(technician, found))) return refuse('the customer said no to this file');
      // The question may have stood for long: what was true before it must still be.
      if (!lease.isRunning) return refuse('the customer has not allowed it');
      const source = await this.#port.open(found.path);
      fileId = randomId(this.#kit.random);
      this.#open.set(fileId, source);
      this.#leases.set(fileId, lease);
      // Told first, so that the technician can take the offer when it comes.
      this.#transfers.tell(fromSeat, { type: 'fetchStarted', requestId, fileId });
      await this.#transfers.offer(source, technician.id, fileId);
    } catch (error) {
      if (fileId !== undefined) await this.#closeSource(fileId);
      if (isMissingFile(error)) return refuse('there is no such file');
      refuse(error instanceof AppError ? error.message : String((error as Error).message));
    }
  }
}

function questionForFile(
  technician: string | undefined,
  fileName: string,
  sizeBytes: number,
  language: Language,
): Question {
  const { kernel, files: w } = host[language];
  return {
    title: w.givesFile({ name: technician ?? kernel.technician }),
    lines: [w.take({ name: fileName, size: speechOf(language).bytes(sizeBytes) }), w.intoDownloads],
    yes: kernel.yes,
    no: kernel.no,
    ...hints(kernel),
  };
}

function questionForFetch(
  about: { readonly technician: string; readonly path: string; readonly sizeBytes: number },
  language: Language,
): Question {
  const { kernel, files: w } = host[language];
  return {
    title: w.wantsFile({ name: about.technician || kernel.technician }),
    lines: [w.fetch({ path: about.path, size: speechOf(language).bytes(about.sizeBytes) })],
    yes: kernel.yes,
    no: kernel.no,
    ...hints(kernel),
    choices: [{ label: w.anyInFolder, isOn: false }],
  };
}
