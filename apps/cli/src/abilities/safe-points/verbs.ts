import {
  comparedInWords,
  pointInWords,
  wentBackInWords,
  type Compared,
  type RightsNeeded,
  type WentBack,
} from '@porch/client';
import { isRightsBackEmpty, rightsBackInWords, type RightsBack, type SafePoint } from '@porch/core';
import { MAX_KEPT_DAYS } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printList } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { book, desk, named, speech, wrong } from '../../words.ts';

const words = desk.safePoints;
const listed = async ({ session }: CommonOptions) => (await callKeeper(session, { call: 'safePoints' })) as SafePoint[];

async function find(given: string, options: CommonOptions): Promise<SafePoint> {
  const points = await listed(options);
  const found = points.filter(({ id, name }) => name === given || (given.length >= 4 && id.startsWith(given)));
  const [only, other] = found;
  if (!only) throw new CliError(wrong.noSafePoint({ name: given }), exitCodes.refused);
  if (other) throw new CliError(wrong.severalSafePoints({ name: given }), exitCodes.wrongCall);
  return only;
}

export async function make(
  name: string,
  options: CommonOptions & { file: string[]; service: string[]; packages?: true },
): Promise<void> {
  const services = options.service.map((one) => {
    const unit = one.endsWith('.service') ? one : `${one}.service`;
    return unit.includes('/') ? unit : `person/${unit}`;
  });
  const touches = { paths: options.file, services, hasPackages: options.packages === true };
  const point = (await callKeeper(options.session, { call: 'makeSafePoint', name, touches })) as SafePoint;
  show(point, options, () => printLine(`${words.made({ name: point.name })} (${pointInWords(point, words, speech)})`));
}

export async function list(options: CommonOptions): Promise<void> {
  printList(
    { items: await listed(options) },
    options,
    [
      ['ID', ({ id }) => id.slice(0, 8)],
      ['NAME', ({ name }) => name],
      ['MADE', ({ madeAtMs }) => speech.exactlyHere(madeAtMs)],
      ['HOLDS', (point) => pointInWords(point, words, speech)],
    ],
    words.none,
  );
}

export async function compare(given: string, options: CommonOptions): Promise<void> {
  const { id: pointId } = await find(given, options);
  const value = (await callKeeper(options.session, { call: 'compareSafePoint', pointId })) as Compared;
  show(value, options, () => {
    const [head = '', ...lines] = comparedInWords(value, words);
    printLine(head);
    for (const line of lines) printLine(`  ${line}`);
  });
}

export async function goBack(given: string, options: CommonOptions & { byRights?: true }): Promise<void> {
  const { id: pointId } = await find(given, options);
  const byRights = options.byRights ? await rightsFor(pointId, options) : undefined;
  const value = (await callKeeper(options.session, { call: 'goBack', pointId, byRights })) as WentBack;
  show(value, options, () => {
    if (byRights && !isRightsBackEmpty(byRights)) printLine(words.byRights);
    for (const line of byRights ? rightsBackInWords(byRights) : []) printLine(`  ${line}`);
    for (const line of wentBackInWords(value, words, (why) => named(book.kernel.reasons, why))) printLine(line);
  });
  if (value.leftCount) process.exitCode = exitCodes.refused;
}

async function rightsFor(pointId: string, { session }: CommonOptions): Promise<RightsBack> {
  const { back, isRaised } = (await callKeeper(session, { call: 'rightsForPoint', pointId })) as RightsNeeded;
  if (!isRaised && !isRightsBackEmpty(back)) throw new CliError(wrong.noRightsYet, exitCodes.refused);
  return back;
}

export async function keep(given: string, options: CommonOptions & { days: string }): Promise<void> {
  const days = Number(options.days);
  if (!Number.isInteger(days) || days < 1 || days > MAX_KEPT_DAYS)
    throw new CliError(wrong.noDays({ most: `${MAX_KEPT_DAYS}` }), exitCodes.wrongCall);
  const { id: pointId } = await find(given, options);
  await callKeeper(options.session, { call: 'keepSafePoint', pointId, days });
  const kept = (await listed(options)).find(({ id }) => id === pointId);
  show(kept, options, () => printLine(kept ? `${kept.name}: ${pointInWords(kept, words, speech)}` : ''));
}

export async function drop(given: string, options: CommonOptions): Promise<void> {
  const point = await find(given, options);
  await callKeeper(options.session, { call: 'dropSafePoint', pointId: point.id });
  show({ dropped: point.id }, options, () => printLine(words.dropped({ name: point.name })));
}
