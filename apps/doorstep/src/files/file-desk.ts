import { FileTransfers, type LiveConnection } from '@porch/client';
import { AppError } from '@porch/wire';
import type { Logger } from 'pino';
import type { ConsentHolder } from '../consent/consent-holder.ts';
import type { GrantBook } from '@porch/client';
import { questionForFile } from '../consent/questions.ts';
import { fileSink, fileToSend, pathWithin } from './disk-files.ts';

export interface FileDeskParts {
  readonly connection: LiveConnection;
  readonly grants: GrantBook;
  readonly holder: ConsentHolder;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
}

/** Files between this computer and technicians: each direction only with a grant of our own. */
export class FileDesk {
  readonly #parts: FileDeskParts;
  readonly #transfers: FileTransfers;
  readonly #seen = new Set<string>();
  readonly #open = new Map<string, { close(): Promise<void> }>();
  readonly #offs: (() => void)[];

  constructor(parts: FileDeskParts) {
    this.#parts = parts;
    this.#transfers = new FileTransfers(parts.connection);
    this.#offs = [
      parts.connection.on('entry', () => this.#follow()),
      this.#transfers.listeners.on('message', ({ fromSeat, message }) => {
        if (message.type === 'fetch') void this.#fetch(fromSeat, message.requestId, message.path);
      }),
    ];
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#transfers.close();
    for (const file of this.#open.values()) void file.close();
  }

  #follow(): void {
    const { connection, log } = this.#parts;
    for (const file of Object.values(connection.state.files)) {
      if (file.stage === 'offered' && file.toId === connection.participantId && !this.#seen.has(file.id)) {
        this.#seen.add(file.id);
        this.#offered(file.id).catch((error: unknown) => log.warn({ why: String(error) }, 'a file could not be taken'));
      }
      if (file.stage !== 'offered' && file.stage !== 'moving') {
        void this.#open.get(file.id)?.close();
        this.#open.delete(file.id);
      }
    }
  }

  async #offered(fileId: string): Promise<void> {
    const { connection, grants, holder, downloads } = this.#parts;
    const file = connection.state.files[fileId];
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
    if (connection.state.files[fileId]?.stage !== 'offered') return;
    if (!answer || !isAllowed()) return this.#transfers.refuse(fileId);
    await this.#transfers.accept(fileId, await fileSink(downloads, file.name ?? 'unnamed'));
  }

  /** A technician asks for a file by its path: only with leave to fetch, only from the home folder. */
  async #fetch(fromSeat: number, requestId: string, path: string): Promise<void> {
    const { connection, grants, home } = this.#parts;
    const technician = Object.values(connection.state.participants).find((p) => p.seat === fromSeat);
    const refuse = (why: string) =>
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: why.slice(0, 120) });
    if (!technician || !grants.holds('fetch-files', technician.signKey, connection.serviceNowMs))
      return refuse('the customer has not allowed it');
    try {
      const source = await fileToSend(await pathWithin(home, path));
      const fileId = crypto.randomUUID();
      this.#open.set(fileId, source);
      // Told first, so that the technician can take the offer when it comes.
      this.#transfers.tell(fromSeat, { type: 'fetchStarted', requestId, fileId });
      await this.#transfers.offer(source, technician.id, fileId);
    } catch (error) {
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
