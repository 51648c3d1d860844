import { dayBegins } from '@porch/client';
import { SessionSearch } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { ago, countDown, printLine, printTable } from '../print.ts';
import { type CommonOptions, rest, show } from './common.ts';

export async function waiting(options: CommonOptions): Promise<void> {
  const porch = await rest().porch();
  show(porch, options, () => {
    if (porch.handovers.length) {
      printLine('Colleagues ask you to take over:');
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
          e.language,
          e.offer
            ? e.offer.isMine
              ? `yours ${countDown(e.offer.remainingMs)}`
              : (e.offer.technicianName.split(' ')[0] ?? '')
            : '',
          e.topic,
          e.description,
        ]),
      );
    else printLine('Nobody is waiting.');
    if (porch.undelivered)
      printLine(`${porch.undelivered} notes wait for the ticket system; they are delivered when it answers.`);
  });
}

export async function setHere(isAway: boolean, options: CommonOptions & { minutes?: string }): Promise<void> {
  const minutes = Number(options.minutes ?? 60);
  const state = await rest().setMyState({ isAway, ...(isAway ? {} : { minutes }) });
  show(state, options, () =>
    printLine(isAway ? 'You are away.' : `You are here for ${minutes} minutes. Offers: porch waiting`),
  );
}

export async function notNow(given: string, options: CommonOptions): Promise<void> {
  const entry = (await rest().porch()).waiting.find((e) => e.id.startsWith(given.toLowerCase()));
  if (!entry) throw new CliError(`Nobody is waiting with entry ${given}. See: porch waiting`, exitCodes.noSession);
  await rest().notNow(entry.id);
  show({ entry: entry.id }, options, () => printLine('They go on to the next.'));
}

export async function tickets(words: string[], options: CommonOptions): Promise<void> {
  const porch = words.length ? undefined : await rest().porch();
  const found = porch ? porch.tickets : await rest().tickets(words.join(' '));
  show(found, options, () => {
    if (porch?.ticketTrouble) printLine(`${porch.ticketTrouble}.`);
    if (found.length)
      printTable(
        ['TICKET', 'STATE', 'REQUESTER', 'TITLE'],
        found.map((t) => [t.ref, t.state, t.requester.name, t.title]),
      );
    else printLine('No tickets.');
  });
}

interface SessionOptions extends CommonOptions, Omit<Partial<SessionSearch>, 'files' | 'limit' | 'words' | 'cursor'> {
  files?: boolean;
  limit?: string;
  after?: string;
}

export async function sessions(words: string[], options: SessionOptions): Promise<void> {
  const { files, limit, after, from, to, json: _, session: __, ...asIs } = options;
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
  show(page, options, () => {
    if (page.items.length)
      printTable(
        ['SESSION', 'PREPARED', 'STATE', 'TICKET', 'CUSTOMER', 'OUTCOME', 'ABOUT'],
        page.items.map((s) => [
          s.id.slice(0, 8),
          new Date(s.preparedAtMs).toISOString().slice(0, 10),
          s.phase,
          s.ticketRef ?? '',
          s.customerName ?? '',
          s.outcome ?? '',
          s.purpose,
        ]),
      );
    else printLine('No session fits.');
    if (page.next) printLine(`\nThere are older ones: --after ${page.next}`);
  });
}

function momentOf(day: string, later = 0): string {
  const at = dayBegins(day, later);
  if (at === undefined) throw new CliError(`“${day}” is no day; say it as 2026-11-28.`, exitCodes.wrongCall);
  return at;
}
