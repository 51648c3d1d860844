import { pointDifferenceInWords, pointInWords, wentBackInWords, type Compared, type WentBack } from '@porch/client';
import type { SafePoint } from '@porch/core';
import { MAX_KEPT_DAYS } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printList } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';

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
    const { differences, count } = value;
    printLine(count ? words.other({ count }) : words.same);
    for (const one of differences) printLine(`  ${pointDifferenceInWords(one, words)}`);
    if (count > differences.length) printLine(`  ${words.more({ count: count - differences.length })}`);
  });
}

export async function goBack(given: string, options: CommonOptions): Promise<void> {
  const { id: pointId } = await find(given, options);
  const value = (await callKeeper(options.session, { call: 'goBack', pointId })) as WentBack;
  show(value, options, () => wentBackInWords(value, words).forEach(printLine));
  if (value.leftCount) process.exitCode = exitCodes.refused;
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
