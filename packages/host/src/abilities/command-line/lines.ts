import type { SealedLine } from '@porch/client';
import {
  COMMAND_LINE_RISK,
  MAX_LINE_FOLDER_CHARACTERS,
  MAX_LINE_PROGRAM_CHARACTERS,
  namedFolder,
  type CommandLineEnd,
  type Participant,
} from '@porch/core';
import { encodeWords, randomId, type CommandLineMessage, type PrintedMessage } from '@porch/wire';
import { careHere, isCleared } from '../../care.ts';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import {
  CommandLineRefused,
  type CommandLinePort,
  type CommandLineToOpen,
  type OpenCommandLine,
} from '../../ports/command-line-port.ts';
import type { LinesWindowPort } from '../../ports/lines-window-port.ts';
import { ASKING, NEEDS_LEAVE, NEVER_HERE } from '../../reasons.ts';
import { UnderWay } from '../../under-way.ts';
import { LineLog } from './line-log.ts';
import { LineSizes } from './line-sizes.ts';
import { LineWindow } from './line-window.ts';
import { OutputStream } from './output-stream.ts';

/** A technician works on one at a time. */
const MOST_AT_ONCE = 1;
/** Somebody who only looks says nothing: it ends with what lets them, not by itself. */
const STALE_MS = 24 * 60 * 60_000;
const SAY_EVERY_MS = 2_000;
const RESTS_EVERY_MS = 1_000;
const ANEW_EVERY_MS = 500;
const CLOSED_THERE = 'closed at their computer';

interface Line {
  readonly from: Participant;
  readonly lease: Lease;
  readonly log: LineLog;
  readonly stream: OutputStream;
  /** Why it ends, once that is decided. */
  how?: CommandLineEnd;
  open?: OpenCommandLine;
  window?: LineWindow;
  endSaying(): void;
  saidRestsAtMs: number;
  /** All that stands there is being put together. */
  isBeginningAnew: boolean;
  anewAtMs: number;
  readonly sizes: LineSizes;
  wasPaused: boolean;
  /** How it ended, until the technician's side has everything that was printed before. */
  ended?: Extract<PrintedMessage, { type: 'ended' }>;
}

export interface LinesParts {
  readonly kit: Kit;
  readonly port: CommandLinePort;
  readonly window: LinesWindowPort;
  readonly words: SealedLine<CommandLineMessage>;
  readonly output: SealedLine<PrintedMessage>;
}

/** Command lines at this computer: each begins and ends with a technician's leave, and the person here sees it. */
export class CommandLines {
  readonly #parts: LinesParts;
  readonly #kit: Kit;
  readonly #underWay: UnderWay;
  readonly #lines = new Map<string, Line>();
  /** What was begun here: no second one has its name. */
  readonly #begun = new Set<string>();
  /** What has not ended yet, so that the end of the session comes after it. */
  readonly #working = new Set<Promise<void>>();

  constructor(parts: LinesParts) {
    this.#parts = parts;
    this.#kit = parts.kit;
    this.#underWay = new UnderWay(parts.kit, {
      ...{ permission: 'use-command-line', most: MOST_AT_ONCE, staleMs: STALE_MS },
      sendPlain: (seat, plain, may) => parts.words.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => this.#refused(seat, id, why),
      onEnd: (lineId) => this.#end(lineId, 'broken-off'),
    });
  }

  /** Who works on one, if anybody does. */
  get who(): string | undefined {
    const [line] = this.#lines.values();
    return line && (line.from.name ?? this.#kit.words.kernel.technician);
  }

  open(from: Participant, asked: CommandLineToOpen): void {
    const { lineId, folder } = asked;
    if (this.#begun.has(lineId)) return this.#refused(from.seat, lineId, 'it is not there any longer');
    const care = careHere(this.#kit);
    if (care?.isNever) return this.#refused(from.seat, lineId, NEVER_HERE);
    const act = { actId: lineId, act: COMMAND_LINE_RISK, name: namedFolder(folder), byId: from.id };
    const lease = this.#underWay.begin(from, lineId);
    if (!lease) return;
    const needsLeave = care !== undefined && !isCleared(this.#kit, act);
    if (needsLeave || this.#kit.isAsking) {
      this.#underWay.end(lineId);
      return this.#refused(from.seat, lineId, needsLeave ? NEEDS_LEAVE : ASKING, needsLeave);
    }
    this.#begun.add(lineId);
    const done = this.#carryOut(asked, this.#lineFor(lineId, from, lease))
      .catch((error: unknown) =>
        this.#kit.log.error({ why: String(error) }, 'what became of a command line could not be told'),
      )
      .finally(() => this.#working.delete(done));
    this.#working.add(done);
  }

  keys(from: Participant, lineId: string, text: string): void {
    const line = this.#theirs(from, lineId);
    if (!line?.open) return;
    // What is typed while the person is asked something could answer for them.
    if (this.#kit.isAsking) this.#rests(lineId, line, ASKING);
    else if (!line.open.write(text)) this.#rests(lineId, line, 'too much waits for it already');
  }
  resize(from: Participant, lineId: string, columns: number, rows: number): void {
    this.#theirs(from, lineId)?.sizes.set(columns, rows);
  }
  taken(from: Participant, lineId: string, stream: string, bytes: number): void {
    this.#theirs(from, lineId)?.stream.taken(stream, bytes);
  }
  again(from: Participant, lineId: string): void {
    const line = this.#theirs(from, lineId);
    const nowMs = this.#kit.time.nowMs();
    // Putting it together takes a while: nobody needs it all the time.
    if (!line || nowMs - line.anewAtMs < ANEW_EVERY_MS) return;
    line.anewAtMs = nowMs;
    this.#anew(lineId, line);
  }
  /** By the technician. */
  shut(from: Participant, lineId: string): void {
    if (!this.#theirs(from, lineId)) return;
    this.#end(lineId, 'closed');
    this.#underWay.end(lineId);
  }

  /** What is allowed and paused may be other than before. */
  check(): void {
    this.#underWay.check();
    for (const [lineId, line] of this.#lines) {
      const isPaused = line.lease.state.name === 'paused';
      line.stream.rest(isPaused || line.isBeginningAnew);
      // What was to go while it rested did not.
      if (line.wasPaused && !isPaused) this.#anew(lineId, line);
      line.wasPaused = isPaused;
    }
  }
  /** The line was gone, and what was on it with it. */
  lineIsBack(): void {
    for (const [lineId, line] of this.#lines) this.#anew(lineId, line);
  }
  async close(): Promise<void> {
    this.#underWay.close();
    await Promise.all(this.#working);
  }

  #theirs(from: Participant, lineId: string): Line | undefined {
    return this.#underWay.heard(from, lineId) ? this.#lines.get(lineId) : undefined;
  }
  #refused(seat: number, id: string, why: string, isCareful = false): void {
    this.#parts.words.send(seat, { type: 'refused', id, why, ...(isCareful ? { isCareful: true } : {}) });
  }
  #rests(lineId: string, line: Line, why: string): void {
    const nowMs = this.#kit.time.nowMs();
    if (nowMs - line.saidRestsAtMs < RESTS_EVERY_MS) return;
    line.saidRestsAtMs = nowMs;
    this.#parts.words.send(line.from.seat, { type: 'rests', lineId, why });
  }

  #lineFor(lineId: string, from: Participant, lease: Lease): Line {
    const { kit, output } = this.#parts;
    const line: Line = {
      ...{ from, lease, log: new LineLog(), endSaying: () => undefined },
      ...{ saidRestsAtMs: -Infinity, anewAtMs: -Infinity, isBeginningAnew: false, wasPaused: false },
      sizes: new LineSizes(kit.time, (columns, rows) => line.open?.resize(columns, rows)),
      stream: new OutputStream({
        ...{ line: output, seat: from.seat, time: kit.time },
        newId: () => randomId(kit.random),
        may: () => lease.isRunning,
        setReading: (isOn) => line.open?.setReading(isOn),
        emptied: () => this.#tellEnded(lineId, line),
      }),
    };
    this.#lines.set(lineId, line);
    return line;
  }

  async #carryOut(asked: CommandLineToOpen, line: Line): Promise<void> {
    const { lineId } = asked;
    const open = await this.#begin(asked, line);
    if (!open) {
      this.#lines.delete(lineId);
      line.stream.close();
      this.#underWay.end(lineId);
      return;
    }
    this.#opened(lineId, line, open);
    // It was closed, or is not allowed any longer, while it began.
    if (line.how !== undefined) open.end();
    const { code, mayGoOn } = await open.ended;
    line.endSaying();
    line.sizes.close();
    line.window?.close();
    const how = (line.how ??= 'left');
    // Nothing more leaves, also of what was printed before, once it is not allowed any longer.
    if (line.lease.isRunning) this.#say(lineId, line, true);
    const ended = { how, ...(code === undefined ? {} : { code }), ...(mayGoOn ? { mayGoOn: true as const } : {}) };
    const { unsaid } = line.log;
    this.#kit.report((fact) => ({ type: 'command-line/tellClosed', lineId, ...ended, unsaid, fact }));
    line.ended = { type: 'ended', lineId, ...ended };
    if (how !== 'left') line.stream.drop();
    this.#tellEnded(lineId, line);
    this.#kit.changed();
  }

  async #begin(asked: CommandLineToOpen, line: Line): Promise<OpenCommandLine | undefined> {
    const { lease, log, stream, from } = line;
    const may = () => lease.isRunning && line.how === undefined;
    try {
      return await this.#parts.port.open(asked, may, {
        printed: (bytes) => stream.push(bytes),
        settled: (text) => log.add(text),
        changed: () => line.window?.changed(),
      });
    } catch (error) {
      if (!(error instanceof CommandLineRefused))
        this.#kit.log.warn({ why: String(error) }, 'a command line could not be opened');
      const why = error instanceof CommandLineRefused ? error.message : 'it could not be opened';
      if (line.how === undefined) this.#refused(from.seat, asked.lineId, why);
      return undefined;
    }
  }

  #opened(lineId: string, line: Line, open: OpenCommandLine): void {
    line.open = open;
    const { from, lease, stream } = line;
    const where = {
      program: open.program.slice(0, MAX_LINE_PROGRAM_CHARACTERS),
      folder: open.folder.slice(0, MAX_LINE_FOLDER_CHARACTERS),
    };
    this.#kit.report((fact) => ({ type: 'command-line/tellOpened', lineId, participantId: from.id, ...where, fact }));
    this.#openWindow(lineId, line, open);
    line.endSaying = this.#kit.time.every(SAY_EVERY_MS, () => lease.isRunning && this.#say(lineId, line));
    const mayGoOn = open.mayGoOn ? { mayGoOn: true as const } : {};
    this.#tell(line, { type: 'opened', lineId, stream: stream.begin(), ...where, ...mayGoOn });
    stream.rest(!lease.isRunning);
    this.#kit.changed();
  }

  /** All that stands there, to whoever lost some of it. */
  #anew(lineId: string, line: Line): void {
    const { open, stream } = line;
    if (!open || line.isBeginningAnew || line.ended) return;
    line.isBeginningAnew = true;
    stream.drop();
    stream.rest(true);
    open
      .screen()
      .then((screen) => {
        this.#tell(line, { type: 'anew', lineId, stream: stream.begin([screen]) });
        stream.rest(!line.lease.isRunning);
        stream.flush();
      })
      .catch((error: unknown) => {
        this.#kit.log.error({ why: String(error) }, 'what stands on a command line could not be put together');
        this.#end(lineId, 'broken-off');
      })
      .finally(() => (line.isBeginningAnew = false));
  }

  #end(lineId: string, how: CommandLineEnd): void {
    const line = this.#lines.get(lineId);
    if (!line) return;
    line.how ??= how;
    line.open?.end();
  }

  /** Once everything that was printed is on its way before it; then it is forgotten. */
  #tellEnded(lineId: string, line: Line): void {
    if (!line.ended || (line.lease.isRunning && !line.stream.isEmpty)) return;
    this.#tell(line, line.ended);
    line.stream.close();
    this.#lines.delete(lineId);
    this.#underWay.end(lineId);
  }
  #tell({ from, lease }: Line, message: PrintedMessage): void {
    const may = () => lease.isRunning;
    if (may()) this.#parts.output.sendPlain(from.seat, encodeWords(message), may);
  }

  #say(lineId: string, { log }: Line, isLast = false): void {
    for (const text of log.take(isLast))
      this.#kit.report((fact) => ({ type: 'command-line/tellPrinted', lineId, text, fact }));
  }

  /** Nobody works here unseen: where it cannot be shown it ends. */
  #openWindow(lineId: string, line: Line, open: OpenCommandLine): void {
    const { kit, window } = this.#parts;
    const who = line.from.name ?? kit.words.kernel.technician;
    line.window = new LineWindow(kit, window, open, who, {
      closed: () => {
        this.#end(lineId, 'closed-there');
        kit.withdraw(line.from.id, 'use-command-line', CLOSED_THERE);
      },
      failed: (error) => {
        kit.log.error({ err: error }, 'a command line cannot be shown to the person here');
        this.#end(lineId, 'broken-off');
      },
    });
  }
}
