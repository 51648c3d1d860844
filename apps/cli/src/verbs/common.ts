import { RestClient, safeAddress } from '@porch/client';
import { readHidden as readFromTerminal } from '@porch/client/terminal';
import type { SessionCommand } from '@porch/core';
import { CliError, exitCodes } from '../exit-codes.ts';
import { readCredentials } from '../home.ts';
import { nodeExchange } from '../http-exchange.ts';
import { callKeeper } from '../keeper/call-keeper.ts';
import { printJson, printLine, type PrintOptions } from '../print.ts';
import { wrong } from '../words.ts';

export interface CommonOptions extends PrintOptions {
  session?: string;
}

/** Where customers type a code: what a technician says aloud. */
export const frontDoor = (): string => new URL(readCredentials().url).host;

export function rest(): RestClient {
  const { url, token } = readCredentials();
  return new RestClient(nodeExchange(safeAddress(url)), token);
}

/** Prints the value as JSON, or as people read it. */
export function show(value: unknown, options: CommonOptions, inWords: () => void): void {
  if (options.json) printJson(value);
  else inWords();
}

/** What nobody looking on, no list of processes and no history of a shell is to see. */
export async function readHidden(prompt: string, fromStdin: boolean, otherwise: string): Promise<string> {
  const said = await readFromTerminal(`${prompt} `, fromStdin);
  if (said === undefined) throw new CliError(wrong.noTerminal({ otherwise }), exitCodes.wrongCall);
  return said;
}

/** A session by the start of its id, by its ticket, or the one opened last. */
export async function findSession(given: string | undefined): Promise<string> {
  const wanted = given?.toLowerCase();
  const isStart = wanted !== undefined && /^[0-9a-f]{4}[0-9a-f-]{0,32}$/.test(wanted);
  const fitting = async (search: { idStart?: string; ticket?: string | undefined }) =>
    (await rest().findSessions({ ...search, limit: 1 })).items[0];
  const found = (isStart ? await fitting({ idStart: wanted }) : undefined) ?? (await fitting({ ticket: wanted }));
  if (!found) throw new CliError(given ? wrong.noSession({ id: given }) : wrong.noSessions, exitCodes.noSession);
  return found.id;
}

export const numberOf = (text: string, what: string): number => {
  const number = Number(text);
  if (!Number.isFinite(number) || number < 0) throw new CliError(wrong.noPixels({ what, text }), exitCodes.wrongCall);
  return number;
};

export async function command(value: SessionCommand, options: CommonOptions, done: string): Promise<void> {
  await callKeeper(options.session, { call: 'command', command: value });
  show({ done: true }, options, () => printLine(done));
}
