import { resolve } from 'node:path';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results } from '../../words.ts';
import type { Turn } from './calls.ts';

export async function camera(options: CommonOptions & { output: string; light?: boolean; turn: Turn }): Promise<void> {
  const value = (await callKeeper(options.session, {
    call: 'camera',
    file: resolve(options.output),
    hasLight: options.light ?? false,
    turn: options.turn,
  })) as { file: string; width: number; height: number; isLit: boolean };
  const { file, width, height, isLit } = value;
  show(value, options, () => {
    printLine(results.cameraPicture({ file, width: String(width), height: String(height) }));
    if (options.light && !isLit) printLine(results.cameraHasNoLight);
  });
}
