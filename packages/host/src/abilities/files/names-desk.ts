import type { Participant } from '@porch/core';
import { NAMES_PER_MESSAGE, type FileMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import { isMissingFile, type FilesPort } from '../../ports/files-port.ts';
import { questionForNames } from './questions.ts';

interface Opened {
  readonly path: string;
  readonly isDeep: boolean;
  readonly lease: Lease;
}

/** Names in folders, as far as the person here opened them to one technician, for as long as that one may fetch. */
export class NamesDesk {
  readonly #kit: Kit;
  readonly #port: FilesPort;
  readonly #tell: (seat: number, message: FileMessage) => void;
  readonly #opened = new Map<string, Opened[]>();

  constructor(kit: Kit, port: FilesPort, tell: (seat: number, message: FileMessage) => void) {
    this.#kit = kit;
    this.#port = port;
    this.#tell = tell;
  }

  /** Tells what is in a folder, or why not. */
  async look(
    from: Participant | undefined,
    lease: Lease | undefined,
    asked: { readonly seat: number; readonly requestId: string; readonly path: string },
  ): Promise<void> {
    const { seat, requestId, path: wanted } = asked;
    const refuse = (why: string) => this.#tell(seat, { type: 'lookRefused', requestId, why: why.slice(0, 120) });
    if (!from || !lease?.isRunning) return refuse('the customer has not allowed it');
    try {
      const { path, shownPath, whyNever } = await this.#port.folder(wanted);
      if (whyNever !== undefined) return refuse(`this is never sent: ${whyNever}`);
      if (!(await this.#isOpen(from, lease, path, shownPath))) return refuse('the customer said no to this folder');
      const { names, isCut } = await this.#port.names(path);
      for (let at = 0; ; at += NAMES_PER_MESSAGE) {
        // The question may have stood for long, and a long list takes its time: each part is told only while it may be.
        if (!lease.isRunning) return refuse('the customer has not allowed it');
        const isLast = at + NAMES_PER_MESSAGE >= names.length;
        const part = names.slice(at, at + NAMES_PER_MESSAGE);
        this.#tell(seat, { type: 'names', requestId, path: shownPath, names: part, isLast, isCut });
        if (isLast) return;
      }
    } catch (error) {
      refuse(isMissingFile(error) ? 'there is no such file' : String((error as Error).message));
    }
  }

  async #isOpen({ id, name, signKey }: Participant, lease: Lease, path: string, shownPath: string): Promise<boolean> {
    const opened = (this.#opened.get(signKey) ?? []).filter((one) => one.lease.isRunning);
    const isWithin = (one: Opened) => path === one.path || (one.isDeep && path.startsWith(`${one.path}/`));
    if (opened.some(isWithin)) return true;
    const { connection, words } = this.#kit;
    const title = name ?? words.kernel.technician;
    const answer = await this.#kit.ask(questionForNames(title, shownPath, connection.state.language), lease.signal);
    if (answer?.what !== 'yes' || !lease.isRunning) return false;
    const isDeep = answer.choices[0] ?? false;
    this.#opened.set(signKey, [...opened, { path, isDeep, lease }]);
    this.#kit.report((fact) => ({ type: 'files/tellNamesOpened', forId: id, path: shownPath, isDeep, fact }));
    return true;
  }
}
