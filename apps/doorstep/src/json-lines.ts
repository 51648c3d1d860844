import type { Readable, Writable } from 'node:stream';
import type { z } from 'zod';
import { jsonOrUndefined } from './json-or-undefined.ts';

/** An action with its values, and as much again for what JSON makes of it. */
export const MAX_LINE_CHARACTERS = 200_000;

/** Hears each line that `schema` knows; `onEnd` once nothing more comes, or something came that is none. */
export function hearLines<T>(
  from: Readable,
  schema: z.ZodType<T>,
  take: (line: T) => void,
  onEnd: (isBroken: boolean) => void,
): void {
  const decoder = new TextDecoder();
  let begun = '';
  let isOver = false;
  const end = (isBroken: boolean) => {
    if (isOver) return;
    isOver = true;
    onEnd(isBroken);
  };
  from.on('data', (bytes: Buffer) => {
    if (isOver) return;
    const lines = (begun + decoder.decode(bytes, { stream: true })).split('\n');
    begun = lines.pop() ?? '';
    for (const line of lines) {
      const read = schema.safeParse(jsonOrUndefined(line));
      if (!read.success) return end(true);
      take(read.data);
    }
    if (begun.length > MAX_LINE_CHARACTERS) end(true);
  });
  from.once('end', () => end(false));
  from.once('close', () => end(false));
  from.once('error', () => end(false));
}

/** False while the other side has to read first. */
export const writeLine = (to: Writable, line: object): boolean => to.write(`${JSON.stringify(line)}\n`);
