import { FileTransfers, inBackground, type FileProgress, type LiveConnection } from '@porch/client';
import { isRefusedKind, isUnderWay, participantAt, type FileTransfer, type Participant } from '@porch/core';
import { speechOf } from '@porch/words';
import { AppError, randomId } from '@porch/wire';
import { hints } from '../../consent/questions.ts';
import type { Lease } from '../../consent/held.ts';
import type { BannerLine, Kit, Running } from '../../kit.ts';
import { isMissingFile, type FilesPort, type FoundFile, type OpenedFile } from '../../ports/files-port.ts';
import { shortened } from '../../shortened.ts';
import { NamesDesk } from './names-desk.ts';
import { chosenOf, MOST_CHOICES, questionForFetch, questionForOffer, questionForSeveral } from './questions.ts';
import { Together } from './together.ts';

/** Files and folders that may be asked for before the first of them is answered. */
const MAX_ASKED = 8;
/** A disk that is full to the brim breaks more than a file that did not come. */
const RESERVE_BYTES = 64 * 1024 * 1024;
const MAX_WHY_CHARS = 120;
const TOO_MANY = 'too many files are asked for at once';

/** Files between this computer and technicians: each direction only with a grant of our own. */
export class FileDesk implements Running {
  readonly #kit: Kit;
  readonly #port: FilesPort;
  readonly #connection: LiveConnection;
  readonly #transfers: FileTransfers;
  readonly #names: NamesDesk;
  readonly #together: Together;
  readonly #seen = new Set<string>();
  /** Folders of which the person here said that any file may be fetched, for one technician's key. */
  readonly #folders = new Set<string>();
  #asked = 0;
  /** Where those lie that have arrived, and whose they were. */
  readonly #arrived = new Map<string, { readonly path: string; readonly signKey: string }>();
  readonly #open = new Map<string, OpenedFile>();
  /** What lets each file be on its way. */
  readonly #leases = new Map<string, Lease>();
  readonly #progress = new Map<string, FileProgress>();
  readonly #offs: (() => void)[];

  constructor(kit: Kit, port: FilesPort) {
    this.#kit = kit;
    this.#port = port;
    this.#connection = kit.connection;
    this.#transfers = new FileTransfers(kit.connection);
    this.#names = new NamesDesk(kit, port, (seat, message) => this.#transfers.tell(seat, message));
    this.#together = new Together(kit.time, (ids) =>
      this.#inBackground('a file could not be taken', this.#offered(ids)),
    );
    kit.shared.arrivedFile = (fileId, signKey) => {
      const file = this.#arrived.get(fileId);
      return file?.signKey === signKey ? file.path : undefined;
    };
    this.#offs = [
      kit.connection.on('entry', () => this.#follow()),
      kit.ports.banner.onFilesWanted(() => this.#inBackground('files could not be shown', this.#showMoving())),
      this.#transfers.listeners.on('progress', (progress) => this.#progress.set(progress.fileId, progress)),
      this.#transfers.listeners.on('message', ({ fromSeat, message }) => {
        const from = participantAt(kit.connection.state, fromSeat);
        if (message.type === 'together') this.#together.announce(message.fileIds);
        else if (message.type === 'fetch')
          this.#inTurn(
            () => this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId: message.requestId, why: TOO_MANY }),
            () => this.#fetch(from, fromSeat, message.requestId, message.path),
          );
        else if (message.type === 'look')
          this.#inTurn(
            () => this.#transfers.tell(fromSeat, { type: 'lookRefused', requestId: message.requestId, why: TOO_MANY }),
            () => this.#names.look(from, this.#mayFetchNow(from), { seat: fromSeat, ...message }),
          );
      }),
    ];
  }

  /** Ends whatever is on its way without leave any longer. Called at every change of what is allowed. */
  changed(): void {
    for (const { fileId } of this.#transfers.moving) {
      if (this.#leases.get(fileId)?.isRunning) continue;
      this.#transfers.stop(fileId);
      inBackground('closing a file', this.#closeSource(fileId));
    }
  }

  banner(soFar: BannerLine): BannerLine {
    const count = this.#moving().length;
    if (!count) return soFar;
    const { moving, show } = this.#kit.words.files;
    return { ...soFar, besides: [...soFar.besides, moving({ count })], files: show };
  }

  /** While nobody looks, what moves is still said, and can be stopped. */
  barAlone(): { who: string; what: string } | undefined {
    const moving = this.#moving();
    if (!moving.length) return undefined;
    const { state, participantId } = this.#connection;
    const { kernel, files } = this.#kit.words;
    const others = moving.map(({ fromId, toId }) => state.participants[fromId === participantId ? toId : fromId]?.name);
    const who = speechOf(state.language).list([...new Set(others.map((name) => name ?? kernel.technician))]);
    return { who, what: files.moving({ count: moving.length }) };
  }

  async close(): Promise<void> {
    this.#offs.forEach((off) => off());
    this.#together.close();
    const comesBack = this.#port.comesBack?.() ?? false;
    await this.#transfers.close(comesBack);
    await Promise.all([...this.#open.keys()].map((fileId) => this.#closeSource(fileId)));
    if (!comesBack) await this.#port.forgetPieces();
  }

  #inBackground(what: string, work: Promise<unknown>): void {
    work.catch((error: unknown) => this.#kit.log.warn({ why: String(error) }, what));
  }

  async #closeSource(fileId: string): Promise<void> {
    const source = this.#open.get(fileId);
    this.#open.delete(fileId);
    this.#leases.delete(fileId);
    this.#progress.delete(fileId);
    await source?.close().catch((error: unknown) => this.#kit.log.warn({ why: String(error) }, 'a file stays open'));
  }

  /** Few questions wait at once: a technician cannot bury the person in them. */
  #inTurn(refuse: () => void, work: () => Promise<void>): void {
    if (this.#asked >= MAX_ASKED) return refuse();
    this.#asked++;
    this.#inBackground(
      'what was asked of files could not be done',
      work().finally(() => this.#asked--),
    );
  }

  #moving(): FileTransfer[] {
    const mine = this.#connection.participantId;
    return Object.values(this.#connection.state.slices.files).filter(
      (file) => file.stage === 'moving' && (file.toId === mine || file.fromId === mine),
    );
  }

  #follow(): void {
    for (const file of Object.values(this.#connection.state.slices.files)) {
      if (file.stage === 'offered' && file.toId === this.#connection.participantId && !this.#seen.has(file.id)) {
        this.#seen.add(file.id);
        this.#together.offered(file.id);
      }
      if (!isUnderWay(file)) inBackground('closing a file', this.#closeSource(file.id));
    }
  }

  /** Files that were said to belong together: in one question for each who offered them, whatever was said. */
  async #offered(fileIds: readonly string[]): Promise<void> {
    const { files } = this.#connection.state.slices;
    const offered = fileIds.flatMap((id) => files[id] ?? []).filter(({ stage }) => stage === 'offered');
    for (const fromId of new Set(offered.map((file) => file.fromId)))
      await this.#offeredBy(
        fromId,
        offered.filter((file) => file.fromId === fromId),
      );
  }

  /** Those that cannot come are refused without a question. */
  async #offeredBy(fromId: string, offered: readonly FileTransfer[]): Promise<void> {
    const { state } = this.#connection;
    const technician = state.participants[fromId];
    if (!technician) return;
    const lease = this.#kit.held.during('give-files', technician.signKey);
    let freeBytes = (await this.#port.freeBytes()) - RESERVE_BYTES;
    const here: { file: FileTransfer; name: string; isThere: boolean }[] = [];
    for (const file of offered) {
      const name = file.name ?? 'unnamed';
      // A folder lies there twice for a moment: as it came, and as it is put there.
      const neededBytes = file.sizeBytes * (file.isFolder ? 2 : 1);
      const why = lease.isRunning ? this.#whyNotMoved(name, file) : 'the customer has not allowed it';
      if (why !== undefined) await this.#transfers.refuse(file.id, why);
      else if (neededBytes > freeBytes) await this.#transfers.refuse(file.id, 'there is no room for it there');
      else {
        freeBytes -= neededBytes;
        here.push({ file, name, isThere: await this.#port.isThere(name) });
      }
    }
    if (!here.length) return;
    const asked = here.map(({ file, name, isThere }) => ({ ...file, name, isThere }));
    const who = technician.name ?? this.#kit.words.kernel.technician;
    const { language } = state;
    const [only, second] = asked;
    const question = only && !second ? questionForOffer(who, only, language) : questionForSeveral(who, asked, language);
    const answer = await this.#kit.ask(question, lease.signal);
    const chosen = chosenOf(answer, asked);
    for (const [i, { file, name }] of here.entries()) {
      if (this.#connection.state.slices.files[file.id]?.stage !== 'offered') continue;
      // Without leave any longer it is over already.
      if (!lease.isRunning) continue;
      if (!chosen[i]) await this.#transfers.refuse(file.id);
      else await this.#take(file, name, technician.signKey, lease, chosen[i]);
    }
  }

  #mayFetchNow(technician: Participant | undefined): Lease | undefined {
    return technician && this.#kit.held.during('fetch-files', technician.signKey);
  }

  #whyNotMoved(
    name: string,
    { sizeBytes, isFolder }: Pick<FileTransfer, 'sizeBytes' | 'isFolder'>,
  ): string | undefined {
    const { refusedFileKinds, maxFileBytes } = this.#kit.desk;
    if (!isFolder && isRefusedKind(name, refusedFileKinds)) return 'files of this kind are not moved at this desk';
    return sizeBytes > maxFileBytes ? 'it is larger than the desk allows' : undefined;
  }

  async #take(
    file: FileTransfer,
    name: string,
    signKey: string,
    lease: Lease,
    ifThere: 'keep-both' | 'replace',
  ): Promise<void> {
    this.#leases.set(file.id, lease);
    const sink = await this.#port.sinkFor(
      { ...file, name },
      {
        ifThere,
        refusedKinds: this.#kit.desk.refusedFileKinds,
        onArrived: (path) => this.#arrived.set(file.id, { path, signKey }),
      },
    );
    if (!lease.isRunning) return sink.discard();
    await this.#transfers.accept(file.id, sink);
    this.#kit.changed();
  }

  /** Asked by name, one question for each, unless the person here said that any in this folder is fine. */
  async #mayFetch(technician: Participant, found: FoundFile, lease: Lease): Promise<boolean> {
    const key = `${technician.signKey} ${found.folder}`;
    if (!found.isFolder && this.#folders.has(key)) return true;
    const who = technician.name ?? this.#kit.words.kernel.technician;
    const answer = await this.#kit.ask(questionForFetch(who, found, this.#connection.state.language), lease.signal);
    if (answer?.what !== 'yes') return false;
    if (!found.isFolder && answer.choices[0]) this.#folders.add(key);
    return true;
  }

  /** A technician asks for a file by its path: only with leave to fetch, and never what the port keeps back. */
  async #fetch(technician: Participant | undefined, fromSeat: number, requestId: string, path: string): Promise<void> {
    const refuse = (why: string) =>
      this.#transfers.tell(fromSeat, { type: 'fetchRefused', requestId, why: why.slice(0, MAX_WHY_CHARS) });
    const lease = this.#mayFetchNow(technician);
    if (!technician || !lease?.isRunning) return refuse('the customer has not allowed it');
    let fileId: string | undefined;
    try {
      const found = await this.#port.find(path, this.#kit.desk.refusedFileKinds);
      if (found.whyNever !== undefined) return refuse(`this is never sent: ${found.whyNever}`);
      const whyNot = this.#whyNotMoved(found.path, found);
      if (whyNot !== undefined) return refuse(whyNot);
      if (!(await this.#mayFetch(technician, found, lease))) return refuse('the customer said no to this file');
      // The question may have stood for long: what was true before it must still be.
      if (!lease.isRunning) return refuse('the customer has not allowed it');
      const source = await found.open();
      fileId = randomId(this.#kit.random);
      this.#open.set(fileId, source);
      this.#leases.set(fileId, lease);
      // Told first, so that the technician can take the offer when it comes.
      this.#transfers.tell(fromSeat, { type: 'fetchStarted', requestId, fileId });
      await this.#transfers.offer(source, technician.id, fileId);
      this.#kit.changed();
    } catch (error) {
      if (fileId !== undefined) await this.#closeSource(fileId);
      if (isMissingFile(error)) return refuse('there is no such file');
      refuse(error instanceof AppError ? error.message : String((error as Error).message));
    }
  }

  /** What is on its way, and which of it the person here wants to stop. */
  async #showMoving(): Promise<void> {
    const { kernel, files: w } = this.#kit.words;
    const speech = speechOf(this.#connection.state.language);
    const moving = this.#moving().slice(0, MOST_CHOICES);
    if (!moving.length) return;
    const label = (file: FileTransfer) => {
      const { movedBytes = 0, leftMs } = this.#progress.get(file.id) ?? {};
      const about = {
        name: shortened(file.name ?? ''),
        percent: speech.percent(file.sizeBytes ? movedBytes / file.sizeBytes : 0),
        size: speech.bytes(file.sizeBytes),
      };
      if (file.pausedBy !== undefined) return w.rowWaits(about);
      return leftMs === undefined ? w.row(about) : w.rowLeft({ ...about, left: speech.roughly(leftMs) });
    };
    const answer = await this.#kit.ask({
      title: w.onTheirWay,
      lines: [w.tickToStop],
      yes: w.stopTicked,
      no: w.letGoOn,
      ...hints(kernel),
      choices: moving.map((file) => ({ label: label(file), isOn: false })),
    });
    if (answer?.what !== 'yes') return;
    for (const [i, file] of moving.entries()) {
      if (!answer.choices[i]) continue;
      this.#transfers.stop(file.id);
      await this.#transfers.cancel(file.id, 'cancelled by the customer');
    }
  }
}
