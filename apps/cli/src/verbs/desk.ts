import { dayBegins } from '@porch/client';
import { firstName, languageTags, purposeInWords } from '@porch/core';
import { SessionSearch } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { ago, countDown, printLine, printList, printTable } from '../print.ts';
import { book, desk, results, wrong } from '../words.ts';
import { type CommonOptions, rest, show } from './common.ts';

export async function waiting(options: CommonOptions): Promise<void> {
  const porch = await rest().porch();
  show(porch, options, () => {
    if (porch.handovers.length) {
      printLine(results.colleaguesAsk);
      printTable(
        ['HANDOVER', 'FROM', 'LEFT', 'ABOUT'],
        porch.handovers.map((h) => [
          h.handoverId.slice(0, 8),
          h.fromName,
          countDown(h.remainingMs),
          h.brief.split('\n')[0] ?? '',
        ]),
      );
      printLine('');
    }
    if (porch.waiting.length)
      printTable(
        ['ENTRY', 'WAITS', 'WHO', 'LANG', 'OFFER', 'TOPIC', 'ABOUT'],
        porch.waiting.map((e) => [
          e.id.slice(0, 8),
          ago(e.sinceMs, porch.nowMs),
          e.name,
          languageTags[e.language],
          e.offer
            ? e.offer.isMine
              ? `yours ${countDown(e.offer.remainingMs)}`
              : firstName(e.offer.technicianName)
            : '',
          e.topic,
          e.description,
        ]),
      );
    else printLine(results.nobodyWaits);
    if (porch.undelivered) printLine(results.undelivered({ count: porch.undelivered }));
  });
}

export async function setHere(isAway: boolean, options: CommonOptions & { minutes?: string }): Promise<void> {
  const minutes = Number(options.minutes ?? 60);
  const state = await rest().setMyState({ isAway, ...(isAway ? {} : { minutes }) });
  show(state, options, () => printLine(isAway ? results.away : results.here({ minutes })));
}

export async function notNow(given: string, options: CommonOptions): Promise<void> {
  const entry = (await rest().porch()).waiting.find((e) => e.id.startsWith(given.toLowerCase()));
  if (!entry) throw new CliError(wrong.noEntry({ id: given }), exitCodes.noSession);
  await rest().notNow(entry.id);
  show({ entry: entry.id }, options, () => printLine(results.goesOn));
}

export async function tickets(words: string[], options: CommonOptions): Promise<void> {
  const porch = words.length ? undefined : await rest().porch();
  const found = porch ? porch.tickets : await rest().tickets(words.join(' '));
  if (porch?.ticketTrouble) process.stderr.write(`${porch.ticketTrouble}.\n`);
  printList(
    { items: found },
    options,
    [
      ['TICKET', (t) => t.ref],
      ['STATE', (t) => t.state],
      ['REQUESTER', (t) => t.requester.name],
      ['TITLE', (t) => t.title],
    ],
    results.noTickets,
  );
}

interface SessionOptions extends CommonOptions, Omit<Partial<SessionSearch>, 'files' | 'limit' | 'words' | 'cursor'> {
  files?: boolean;
  limit?: string;
  after?: string;
}

export async function sessions(words: string[], options: SessionOptions): Promise<void> {
  const { files, limit, after, from, to, json: _, csv: __, session: ___, ...asIs } = options;
  const search = SessionSearch.safeParse({
    ...asIs,
    ...(words.length ? { words: words.join(' ') } : {}),
    ...(files ? { files: 'any' } : {}),
    ...(from ? { from: momentOf(from) } : {}),
    ...(to ? { to: momentOf(to, 1) } : {}),
    ...(after ? { cursor: after } : {}),
    limit,
  });
  if (!search.success) {
    const [first] = search.error.issues;
    throw new CliError(`--${String(first?.path[0] ?? '')}: ${first?.message ?? 'is wrong'}.`, exitCodes.wrongCall);
  }
  const page = await rest().findSessions(search.data);
  printList(
    page,
    options,
    [
      ['SESSION', (s) => s.id.slice(0, 8)],
      ['PREPARED', (s) => new Date(s.preparedAtMs).toISOString().slice(0, 10)],
      ['STATE', (s) => desk.pastSessions.phases[s.phase]],
      ['TICKET', (s) => s.ticketRef ?? ''],
      ['CUSTOMER', (s) => s.customerName ?? ''],
      ['OUTCOME', (s) => (s.outcome ? desk.common.outcomes[s.outcome] : '')],
      ['ABOUT', (s) => purposeInWords(s.purpose, book)],
    ],
    results.noSessionFits,
  );
}

function momentOf(day: string, later = 0): string {
  const at = dayBegins(day, later);
  if (at === undefined) throw new CliError(wrong.noDay({ text: day }), exitCodes.wrongCall);
  return at;
}
