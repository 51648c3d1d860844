import { CliError, exitCodes } from '../exit-codes.ts';
import { callKeeper } from '../keeper/call-keeper.ts';
import type { Call } from '../keeper/calls.ts';
import { printLine } from '../print.ts';
import type { CommonOptions } from '../verbs/common.ts';
import { desk } from '../words.ts';

/** Where the device's label asks for care the desk has its say first, and maybe somebody else of it. `ask` asks for leave. */
export async function needLeave(ask: Call, options: CommonOptions): Promise<void> {
  const { standing: words } = desk.carefulActs;
  if (!options.json) printLine(words.waits);
  const { standing } = (await callKeeper(options.session, ask)) as { standing: keyof typeof words };
  if (standing !== 'cleared') throw new CliError(words[standing], exitCodes.refused);
}
