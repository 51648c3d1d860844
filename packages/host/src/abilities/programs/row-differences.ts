import type { ProgramRow } from '@porch/core';
import { MAX_ROWS_A_MESSAGE, MAX_ROWS_CHARS } from '@porch/wire';

/** What somebody was sent of a list, so that only what is other than that is sent again. */
export class RowDifferences {
  readonly #sent = new Map<string, string>();

  /** Rows that are new or changed since the call before, and the ids of those that went. */
  next(rows: readonly ProgramRow[]): { readonly rows: readonly string[]; readonly gone: readonly string[] } {
    const now = new Map(rows.map((row) => [row.id, JSON.stringify(row)]));
    const changed = [...now].filter(([id, text]) => this.#sent.get(id) !== text);
    const gone = [...this.#sent.keys()].filter((id) => !now.has(id));
    for (const id of gone) this.#sent.delete(id);
    for (const [id, text] of changed) this.#sent.set(id, text);
    return { rows: changed.map(([, text]) => text), gone };
  }
}

/** Texts in messages of their own: no more than may be in one, and no longer than what comes behind it should wait. */
export function inMessages(texts: readonly string[], mostChars: number): string[][] {
  const most = Math.min(MAX_ROWS_CHARS, mostChars);
  const messages: string[][] = [];
  let chars = Infinity;
  for (const text of texts) {
    const last = messages.at(-1);
    if (last && last.length < MAX_ROWS_A_MESSAGE && chars + text.length <= most) {
      last.push(text);
      chars += text.length;
    } else {
      messages.push([text]);
      chars = text.length;
    }
  }
  return messages;
}
