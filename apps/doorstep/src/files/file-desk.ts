import { realpath, stat } from 'node:fs/promises';
import { dirname, relative } from 'node:path';
import { FileTransfers, inBackground, type LiveConnection } from '@porch/client';
import type { Participant } from '@porch/core';
import { AppError } from '@porch/wire';
import type { Logger } from 'pino';
import type { ConsentHolder } from '../consent/consent-holder.ts';
import type { GrantBook } from '@porch/client';
import { questionForFetch, questionForFile } from '../consent/questions.ts';
import { whyNeverSent } from './never-sent.ts';
import { fileSink, fileToSend, pathWithin, removeStalePieces } from './disk-files.ts';

export interface FileDeskParts {
  readonly connection: LiveConnection;
  readonly grants: GrantBook;
  readonly holder: ConsentHolder;
  readonly home: string;
  readonly downloads: string;
  /** Doorstep's own: never sent. */
  readonly ownFolders: readonly string[];
  readonly log: Logger;
}

/** Files that may be asked for before the first of them is answered. */
const MAX_FETCHES_WAITING = 8;

/** Files between this computer and technicians: each direction only with a grant of our own. */
export class FileDesk {
  readonly #parts: FileDeskParts;
  readonly #transfers: FileTransfers;
  readonly #seen = new Set<string>();
  /** Folders of which the person here said that any file may be fetched, for one technician's key. */
  readonly #folders = new Set<string>();
  #fetchesWaiting = 0;
  readonly #open = new Map<string, { close(): Promise<void> }>();
  readonly #offs: (() => void)[];

  constructor(parts: FileDeskParts) {
    this.#parts = parts;
    this.#transfers = new FileTransfers(parts.connection);
    removeStalePieces(parts.downloads).catch((error: unknown) =>
      parts.log.warn({ why: String(error) }, 'pieces of files that never arrived could not be looked for'),
    );
    this.#offs = [
      parts.connection.on('entry', () => this.#follow()),
      this.#transfers.listeners.on('message', ({ fromSeat, message }) => {
        if (message.type === 'fetch') this.#fetchInTurn(fromSeat, message.requestId, message.path);
      }),
    ];
  }

  /** Ends whatever is on its way without leave any longer. Called at every change of what is allowed. */
  check(): void {
    const { connection, grants } = this.#parts;
    for (const { fileId, otherSeat, isSending } of this.#transfers.moving) {
      const technician = Object.values(connection.state.participants).find((p) => p.seat === otherSeat);
      const permission = isSending ? 'fetch-files' : 'give-files';
      if (technician && grants.holds(permission, technician.signKey, connection.serviceNowMs)) continue;
      this.#transfers.stop(fileId);
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
    await source?.close().catch((error: unknown) => this.#parts.log.warn({ why: String(error) }, 'a file stays open'));
  }

  /** One question at a time, and few that wait: a technician cannot bury the person in them. */
  #fetchInTurn(fromSeat: number, requestId: string, path: string): void {
    if (this.#fetchesWaiting >= MAX_FETCHES_WAITING) {
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: 'too many files are asked for at once' });
      return;
    }
    this.#fetchesWaiting++;
    this.#fetch(fromSeat, requestId, path)
      .catch((error: unknown) => this.#parts.log.warn({ why: String(error) }, 'a file could not be fetched'))
      .finally(() => this.#fetchesWaiting--);
  }

  #follow(): void {
    const { connection, log } = this.#parts;
    for (const file of Object.values(connection.state.slices.files)) {
      if (file.stage === 'offered' && file.toId === connection.participantId && !this.#seen.has(file.id)) {
        this.#seen.add(file.id);
        this.#offered(file.id).catch((error: unknown) => log.warn({ why: String(error) }, 'a file could not be taken'));
      }
      if (file.stage !== 'offered' && file.stage !== 'moving') {
        inBackground('closing a file', this.#closeSource(file.id));
      }
    }
  }

  async #offered(fileId: string): Promise<void> {
    const { connection, grants, holder, downloads } = this.#parts;
    const file = connection.state.slices.files[fileId];
    const technician = file && connection.state.participants[file.fromId];
    if (!file || !technician) return;
    const isAllowed = () => grants.holds('give-files', technician.signKey, connection.serviceNowMs);
    const answer =
      isAllowed() &&
      (await holder.askInTurn(
        questionForFile(
          technician.name ?? 'The technician',
          file.name ?? 'a file',
          file.sizeBytes,
          connection.state.language,
        ),
      ));
    if (connection.state.slices.files[fileId]?.stage !== 'offered') return;
    if (!answer || !isAllowed()) return this.#transfers.refuse(fileId);
    await this.#transfers.accept(fileId, await fileSink(downloads, file.name ?? 'unnamed'));
  }

  /** Asked by name, one question for each, unless the person here said that any in this folder is fine. */
  async #mayFetch(technician: Participant, path: string): Promise<boolean> {
    const { connection, holder, home } = this.#parts;
    const folder = dirname(path);
    const key = `${technician.signKey} ${folder}`;
    if (this.#folders.has(key)) return true;
    const { size } = await stat(path);
    const about = { technician: technician.name ?? '', path: relative(await realpath(home), path), sizeBytes: size };
    const answer = await holder.chooseInTurn(questionForFetch(about, connection.state.language));
    if (answer?.what !== 'yes') return false;
    if (answer.choices[0]) this.#folders.add(key);
    return true;
  }

  /** A technician asks for a file by its path: only with leave to fetch, only from the home folder. */
  async #fetch(fromSeat: number, requestId: string, path: string): Promise<void> {
    const { connection, grants, home } = this.#parts;
    const technician = Object.values(connection.state.participants).find((p) => p.seat === fromSeat);
    const refuse = (why: string) =>
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: why.slice(0, 120) });
    if (!technician || !grants.holds('fetch-files', technician.signKey, connection.serviceNowMs))
      return refuse('the customer has not allowed it');
    let fileId: string | undefined;
    try {
      const real = await pathWithin(home, path);
      const why = await whyNeverSent(real, home, this.#parts.ownFolders);
      if (why !== undefined) return refuse(`this is never sent: ${why}`);
      if (!(await this.#mayFetch(technician, real))) return refuse('the customer said no to this file');
      // The question may have stood for long: what was true before it must still be.
      if (!grants.holds('fetch-files', technician.signKey, connection.serviceNowMs))
        return refuse('the customer has not allowed it');
      const source = await fileToSend(real);
      fileId = crypto.randomUUID();
      this.#open.set(fileId, source);
      // Told first, so that the technician can take the offer when it comes.
      this.#transfers.tell(fromSeat, { type: 'fetchStarted', requestId, fileId });
      await this.#transfers.offer(source, technician.id, fileId);
    } catch (error) {
      if (fileId !== undefined) await this.#closeSource(fileId);
      const isMissing = (error as NodeJS.ErrnoException).code === 'ENOENT';
      refuse(
        isMissing
          ? 'there is no such file'
          : error instanceof AppError
            ? error.message
            : String((error as Error).message),
      );
    }
  }
}
