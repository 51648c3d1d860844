import { setTimeout as sleep } from 'node:timers/promises';
import { inBackground, type CommandLineOver } from '@porch/client';
import { MAX_LINE_COLUMNS, MAX_LINE_ROWS } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { book, desk, named, results } from '../../words.ts';
import { needLeave } from '../need-leave.ts';
import type { LineEnded, LineNews } from './kept.ts';
import { PrintedText } from './printed-text.ts';
import { Typing } from './typing.ts';

export interface ShellOptions extends CommonOptions {
  reason?: string;
}
const words = desk.commandLine;
/** Where nobody looks at a screen lines are not broken. */
const FOR_NOBODY = { columns: MAX_LINE_COLUMNS, rows: 50 };
const [LEAVING_KEY, END_OF_FILE] = ['\u0011', '\u0004'];
const END_OF_FILE_EVERY_MS = 300;
const LEAVING_PRESSES = 3;
const LEAVING_MS = 1_000;
const NOTICE_MS = 3_000;

/** Opens it, with the desk's leave where the device's label asks for it; resolves once it is over. */
async function open(
  folder: string,
  size: { columns: number; rows: number },
  options: ShellOptions,
  onNews: (news: LineNews) => void,
): Promise<CommandLineOver> {
  const lineId = crypto.randomUUID();
  const ask = () =>
    callKeeper(options.session, { call: 'openCommandLine', lineId, folder, ...size }, (news) =>
      onNews(news as LineNews),
    ) as Promise<LineEnded>;
  const ended = await ask();
  if (!('isCareful' in ended)) return ended;
  const reason = options.reason ? { reason: options.reason } : {};
  await needLeave({ call: 'askLeaveForLine', lineId, folder, ...reason }, options);
  const second = await ask();
  if ('isCareful' in second) throw new CliError(desk.carefulActs.standing.refused, exitCodes.refused);
  return second;
}

const inWords = ({ how, code, mayGoOn }: CommandLineOver): string =>
  [
    how === 'left' && code ? words.ended.code({ code: String(code) }) : words.ended[how],
    ...(mayGoOn ? [words.wentOn] : []),
  ].join('\n');
function tellEnd(over: CommandLineOver): void {
  const isWell = over.how === 'closed' || (over.how === 'left' && over.code === 0);
  if (!isWell) throw new CliError(inWords(over), exitCodes.refused);
  printLine(inWords(over));
}

export async function shell(folder: string, options: ShellOptions): Promise<void> {
  const isSeen = process.stdin.isTTY && process.stdout.isTTY && !options.json;
  await (isSeen ? atTheTerminal(folder, options) : fromPipe(folder, options));
}

/** Whether somebody wants to leave: they pressed the same key often, and nothing else. */
function leavingKeys(): (text: string) => boolean {
  let presses: number[] = [];
  return (text) => {
    const nowMs = Date.now();
    const before = presses.filter((at) => nowMs - at < LEAVING_MS);
    presses = text === LEAVING_KEY.repeat(text.length) ? [...before, ...[...text].map(() => nowMs)] : [];
    return presses.length >= LEAVING_PRESSES;
  };
}

async function atTheTerminal(folder: string, options: ShellOptions): Promise<void> {
  const { Painter } = await import('./painter.ts');
  const { stdin, stdout } = process;
  const sizeNow = () => ({
    columns: Math.min(MAX_LINE_COLUMNS, Math.max(2, stdout.columns)),
    rows: Math.min(MAX_LINE_ROWS, Math.max(1, stdout.rows)),
  });
  const typing = new Typing(options.session);
  const type = (text: string) => inBackground('typing', typing.type(text));
  let painter: InstanceType<typeof Painter> | undefined;
  const isLeaving = leavingKeys();
  let endNotice: ReturnType<typeof setTimeout> | undefined;
  const say = (notice: string) => {
    clearTimeout(endNotice);
    painter?.say(notice);
    endNotice = setTimeout(() => painter?.say(undefined), NOTICE_MS);
  };
  const onKeys = (text: string) => {
    if (isLeaving(text)) typing.shut();
    else type(text);
  };
  const onResize = () => {
    const size = sizeNow();
    painter?.resize(size.columns, size.rows);
    typing.resize(size);
  };
  const onNews = (news: LineNews) => {
    if (news.is === 'opened') {
      printLine(results.shellOpened({ program: news.program, folder: news.folder }));
      if (news.mayGoOn) printLine(words.mayGoOn);
      painter = new Painter({
        ...sizeNow(),
        write: (text) => void stdout.write(text),
        answer: type,
      });
      stdin.setRawMode(true);
      stdin.setEncoding('utf8').on('data', onKeys).resume();
      stdout.on('resize', onResize);
    } else if (news.is === 'printed') {
      const bytes = Buffer.from(news.bytes, 'base64');
      painter?.take(bytes, () => typing.took(bytes.length));
    } else if (news.is === 'anew') painter?.reset();
    else say(words.rests({ why: named(book.kernel.reasons, news.why) }));
  };
  try {
    tellEnd(
      await open(folder, sizeNow(), options, onNews).finally(() => {
        clearTimeout(endNotice);
        painter?.close();
        stdout.off('resize', onResize);
        if (painter) stdin.setRawMode(false);
        stdin.off('data', onKeys).pause();
      }),
    );
  } finally {
    await typing.done();
  }
}

/** What comes from a pipe is typed there; what it prints comes as text. */
async function fromPipe(folder: string, options: ShellOptions): Promise<void> {
  const typing = new Typing(options.session);
  const printed = new PrintedText(options.json ? undefined : process.stdout);
  let where: Extract<LineNews, { is: 'opened' }> | undefined;
  let isOver = false;
  const typeAll = async () => {
    for await (const part of process.stdin.setEncoding('utf8')) await typing.type(String(part).replace(/\n/g, '\r'));
    // End of file, for whatever reads then; a terminal that nobody reads forgets it.
    for (; !isOver; await sleep(END_OF_FILE_EVERY_MS)) await typing.type(END_OF_FILE);
  };
  const over = await open(folder, FOR_NOBODY, options, (news) => {
    if (news.is === 'opened') {
      where = news;
      // Once it is over nobody types any longer, whatever still comes.
      typeAll().catch(() => undefined);
    } else if (news.is === 'printed') {
      const bytes = Buffer.from(news.bytes, 'base64');
      printed.take(bytes, () => typing.took(bytes.length));
    }
  }).finally(() => (isOver = true));
  process.stdin.destroy();
  await typing.done();
  if (!options.json) return tellEnd(over);
  const { program, folder: at } = where ?? { program: '', folder: '' };
  const { text, isCut } = printed;
  show({ program, folder: at, text, isCut, ...over }, options, () => undefined);
  if (over.how !== 'left' || over.code !== 0) process.exitCode = exitCodes.refused;
}
