import { actedInWords, hitInWords, programCell, saidOfRow, type ActedOn, type PreparedAct } from '@porch/client';
import {
  chooseRows,
  firstOrder,
  programColumns,
  type ProgramAct,
  type ProgramColumn,
  type ProgramList,
  type ProgramRow,
  type WhyMissing,
} from '@porch/core';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { needLeave } from '../need-leave.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printList } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';

interface Listed {
  readonly list: ProgramList;
  readonly rows: readonly ProgramRow[];
  readonly count: number;
  readonly missing?: WhyMissing;
}
const listed = async (list: ProgramList, { session }: CommonOptions): Promise<Listed> =>
  (await callKeeper(session, { call: 'programs', list })) as Listed;

interface LookOptions extends CommonOptions {
  match?: string;
  by?: string;
  down?: boolean;
  most: string;
}
function orderOf(list: ProgramList, { by, down }: LookOptions) {
  const columns: readonly ProgramColumn[] = programColumns[list];
  if (by === undefined) return down === undefined ? firstOrder[list] : { ...firstOrder[list], isDown: down };
  const column = columns.find((one) => one === by);
  if (!column) throw new CliError(wrong.noColumn({ name: by, names: columns.join(', ') }), exitCodes.wrongCall);
  return { by: column, isDown: down ?? false };
}

export async function lookCloser(list: ProgramList, options: LookOptions): Promise<void> {
  const most = Number(options.most);
  if (!Number.isInteger(most) || most < 1)
    throw new CliError(wrong.noWholeNumber({ what: '--most' }), exitCodes.wrongCall);
  const order = orderOf(list, options);
  const value = await listed(list, options);
  const { programs: words } = desk;
  if (value.missing) throw new CliError(words.missing[value.missing], exitCodes.refused);
  const fitting = chooseRows(value.rows, options.match ?? '', order, (row) => saidOfRow(row, words));
  const columns = programColumns[list].map((column: ProgramColumn) => {
    const heading = words.columns[column].toUpperCase();
    return [heading, (row: ProgramRow) => programCell(row, column, words, speech)] as const;
  });
  printList({ items: fitting.slice(0, most) }, options, columns, words.none);
  const [shown, all] = [Math.min(most, fitting.length), Math.max(value.count, value.rows.length)];
  if (shown < all && !options.json && !options.csv)
    printLine(words.count({ shown: speech.number(shown), all: speech.number(all) }));
}

interface ActOptions extends CommonOptions {
  yes?: true;
  reason?: string;
}
/** What it hits is said first; where something hangs on it, it is done only by whoever said so. */
async function actOn(act: ProgramAct, target: string, options: ActOptions): Promise<void> {
  const { programs: words } = desk;
  const prepared = (await callKeeper(options.session, { call: 'prepareOnProgram', act, target })) as PreparedAct;
  const hits = hitInWords(prepared, words, speech);
  const isDone = prepared.hangingCount === 0 || options.yes === true;
  if (!options.json) for (const hit of hits) printLine(hit);
  if (isDone && prepared.isCareful)
    await needLeave(
      { call: 'askLeave', actId: prepared.actId, ...(options.reason ? { reason: options.reason } : {}) },
      options,
    );
  const done = await callKeeper(options.session, { call: 'actOnProgram', actId: prepared.actId, isDone });
  if (!isDone) throw new CliError(wrong.hangsOnIt({ name: prepared.name }), exitCodes.refused);
  const acted = done as ActedOn;
  const said = actedInWords(acted, prepared.name, words);
  if (acted.outcome !== 'done') throw new CliError(said, exitCodes.refused);
  show({ ...prepared, ...acted }, options, () => printLine(said));
}

export async function endProgram(number: string, options: ActOptions & { atOnce?: true }): Promise<void> {
  if (!/^[1-9]\d{0,9}$/.test(number)) throw new CliError(wrong.noWholeNumber({ what: 'NUMBER' }), exitCodes.wrongCall);
  const { rows } = await listed('processes', options);
  const row = rows.find((one) => 'pid' in one && one.pid === Number(number));
  if (!row) throw new CliError(wrong.noProgram({ name: number }), exitCodes.refused);
  await actOn(options.atOnce ? 'end-at-once' : 'end', row.id, options);
}

export async function changeService(
  act: ProgramAct,
  name: string,
  options: ActOptions & { own?: true },
): Promise<void> {
  const unit = name.endsWith('.service') ? name : `${name}.service`;
  await actOn(act, `${options.own ? 'person' : 'computer'}/${unit}`, options);
}
