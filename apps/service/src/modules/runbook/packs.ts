import { textOfAction } from '@porch/core';
import { AppError, type ImportedAction, type PackFile, type PackSigner, type RunbookScope } from '@porch/wire';
import type { Technician } from '../people/technician.ts';
import { readActionFile, writeActionFile } from './pack-file.ts';
import { isSigning, type PackSignature } from './pack-signature.ts';
import { ownerOf, type RunbookDesk } from './runbook-desk.ts';

/** Packs: actions as a folder of plain files, brought in as drafts and taken out signed. */
export class Packs {
  readonly #desk: RunbookDesk;
  readonly #signature: PackSignature;

  constructor(desk: RunbookDesk, signature: PackSignature) {
    this.#desk = desk;
    this.#signature = signature;
  }

  /** Each file by itself: what is wrong with one keeps none of the others out. Throws PACK_CHANGED for the whole. */
  async bringIn(
    me: Technician,
    files: readonly PackFile[],
    scope: RunbookScope,
  ): Promise<{ signer: PackSigner; items: ImportedAction[] }> {
    const { signer, signed } = this.#signature.signerOf(files);
    const items: ImportedAction[] = [];
    for (const file of files) {
      if (isSigning(file)) continue;
      // What stands beside a signed pack was put there by somebody else.
      const isStrange = signer.who !== 'nobody' && !signed.has(file.name);
      const came: Omit<ImportedAction, 'file'> = isStrange
        ? { result: 'refused', why: 'not-signed' }
        : await this.#bringInOne(me, file, scope);
      items.push({ file: file.name, ...came });
    }
    return { signer, items };
  }

  /** Everything in use that somebody may see, and what signs it. */
  async takeOut(me: Technician): Promise<PackFile[]> {
    const files = (await this.#desk.inUseFor(me)).map(writeActionFile);
    return files.length ? [...files, ...this.#signature.sign(files)] : [];
  }

  async #bringInOne(me: Technician, file: PackFile, scope: RunbookScope): Promise<Omit<ImportedAction, 'file'>> {
    const action = readActionFile(file);
    if (typeof action === 'string') return { result: 'refused', why: action };
    const known = await this.#desk.named(ownerOf(scope, me), action.name);
    if (known?.text === textOfAction(action)) return { result: 'unchanged' };
    if (known && known.state !== 'approved' && known.authorId !== me.id)
      return { result: 'refused', why: 'draft-open' };
    try {
      return { result: 'drafted', id: (await this.#desk.write(me, { action, scope, basedOn: known?.id })).id };
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      return { result: 'refused', why: error.code === 'TOO_MANY_ACTIONS' ? 'too-many' : 'draft-open' };
    }
  }
}
