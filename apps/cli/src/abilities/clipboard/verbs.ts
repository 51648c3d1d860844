import { resolve } from 'node:path';
import { text as readAll } from 'node:stream/consumers';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, numberOf, show } from '../../verbs/common.ts';
import { results, speech } from '../../words.ts';

interface Read {
  readonly kind: 'text' | 'image';
  readonly sizeBytes: number;
  readonly text?: string;
  readonly file?: string;
}

export async function copyFrom(
  options: CommonOptions & { output?: string; kind?: 'text' | 'image'; wait: string },
): Promise<void> {
  const value = (await callKeeper(options.session, {
    call: 'copyFrom',
    ...(options.kind === undefined ? {} : { kind: options.kind }),
    ...(options.output === undefined ? {} : { file: resolve(options.output) }),
    waitMs: numberOf(options.wait, '--wait') * 1_000,
  })) as Read;
  show(value, options, () =>
    printLine(value.text ?? results.copiedInto({ file: value.file ?? '', size: speech.bytes(value.sizeBytes) })),
  );
}

export async function copyTo(words: string[], options: CommonOptions & { image?: string }): Promise<void> {
  const text =
    options.image === undefined ? (words.length ? words.join(' ') : await readAll(process.stdin)) : undefined;
  const value = (await callKeeper(options.session, {
    call: 'copyTo',
    kind: text === undefined ? 'image' : 'text',
    ...(text === undefined ? { file: resolve(options.image ?? '') } : { text }),
  })) as { sizeBytes: number };
  show(value, options, () => printLine(results.copiedThere({ size: speech.bytes(value.sizeBytes) })));
}
