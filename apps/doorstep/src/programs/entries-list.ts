import type { ProgramRow } from '@porch/core';
import { PartMissing, type ProgramReading } from '@porch/host';
import { z } from 'zod';
import { runToItsEnd } from '../system/run-command.ts';
import { withoutSecrets } from './processes-list.ts';

/** So many are kept in sight: the newest. */
const MAX_ENTRIES = 2_000;
const MAX_TEXT_CHARS = 400;

/** systemd.journal-fields(7), as journalctl(1) prints it: what is no text comes as a list of bytes, what is too long as null. */
const Field = z.union([z.string(), z.array(z.union([z.number(), z.string()])), z.null()]).optional();
const Entry = z.looseObject({
  __CURSOR: z.string(),
  __REALTIME_TIMESTAMP: z.string(),
  PRIORITY: Field,
  MESSAGE: Field,
  SYSLOG_IDENTIFIER: Field,
  _COMM: Field,
});

const weights = ['urgent', 'urgent', 'urgent', 'error', 'warning', 'notice', 'info', 'detail'] as const;

function textOfField(field: z.infer<typeof Field>): string {
  if (typeof field === 'string') return field;
  if (!Array.isArray(field)) return '';
  const [first] = field;
  if (typeof first === 'string') return first;
  return Buffer.from(field.filter((one) => typeof one === 'number')).toString('utf8');
}
/** On one line, and nothing that a terminal would obey. */

const plainLine = (text: string): string => text.replace(/[\u0000-\u001f\u007f-\u009f]+/g, ' ').trim();

export function entriesIn(lines: string): { rows: ProgramRow<'entries'>[]; cursor: string | undefined } {
  const rows: ProgramRow<'entries'>[] = [];
  let cursor: string | undefined;
  for (const line of lines.split('\n')) {
    if (!line.startsWith('{')) continue;
    const read = Entry.safeParse(JSON.parse(line));
    if (!read.success) continue;
    const { data } = read;
    cursor = data.__CURSOR;
    rows.push({
      id: numberIn(cursor),
      atMs: Math.floor(Number(data.__REALTIME_TIMESTAMP) / 1_000) || 0,
      weight: weights[Number(textOfField(data.PRIORITY) || 6)] ?? 'info',
      from: plainLine(textOfField(data.SYSLOG_IDENTIFIER) || textOfField(data._COMM)).slice(0, 120),
      text: withoutSecrets(plainLine(textOfField(data.MESSAGE))).slice(0, MAX_TEXT_CHARS),
    });
  }
  return { rows, cursor };
}
/** A cursor names its log, boot and place among other things; log and place tell entries apart. */
const numberIn = (cursor: string): string => {
  const parts = Object.fromEntries(cursor.split(';').map((part) => part.split('=', 2) as [string, string]));
  return `${parts['s'] ?? ''}.${parts['i'] ?? cursor}`.slice(0, 160);
};

/** The computer's log, as far as the person may read it: the newest entries, and what comes. */
export class EntriesList implements ProgramReading<'entries'> {
  #rows: ProgramRow<'entries'>[] = [];
  #cursor: string | undefined;

  async read(signal: AbortSignal): Promise<ProgramRow<'entries'>[]> {
    const from = this.#cursor === undefined ? [] : [`--after-cursor=${this.#cursor}`];
    const fields = '--output-fields=MESSAGE,PRIORITY,SYSLOG_IDENTIFIER,_COMM';
    const ended = await runToItsEnd(
      'journalctl',
      ['--output=json', fields, '--no-pager', '--quiet', `--lines=${MAX_ENTRIES}`, ...from],
      signal,
    );
    if (ended.code !== 0 && /cursor/i.test(ended.wrong) && this.#cursor !== undefined) {
      // That log was cleared: from the beginning.
      [this.#rows, this.#cursor] = [[], undefined];
      return this.read(signal);
    }
    const { rows, cursor } = entriesIn(ended.out);
    this.#cursor = cursor ?? this.#cursor;
    this.#rows = [...this.#rows, ...rows].slice(-MAX_ENTRIES);
    if (!this.#rows.length && ended.code !== 0)
      throw new PartMissing(/permission/i.test(ended.wrong) ? 'no-rights' : 'not-there');
    return this.#rows;
  }
}
