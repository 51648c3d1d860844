import {
  RestartRefused,
  type HitFound,
  type RestartOutlook,
  type RestartPort,
  type ReturnAgreement,
} from '@porch/host';
import type { RestartHow } from '@porch/core';
import { homedir, hostname, userInfo } from 'node:os';
import { entryPlaces, isRegistered, isReturning, registerReturning } from '../desktop-entry.ts';
import { installCopy, removeCopy } from '../release/self.ts';
import { canSignInOnce } from '../rights/sign-in-once.ts';
import { forgetKeys, type SessionKeys } from '../session-keys.ts';
import { runCommand } from '../system/run-command.ts';
import { beginBareStart, endBareStart, planBareStart } from './bare-start.ts';
import { battery, diskKey, others, packages, prints, signsInByItself, unsaved } from './hits.ts';
import { Logind } from '../system/logind.ts';
import type { Warn } from '../warn.ts';
import { registerSteps, RETURN_UNIT, unregisterReturn } from './return-entry.ts';
import { removeNote, writeNote, type ReturnNote } from './return-note.ts';

/** A session is over by then, whatever was allowed in it. */
const MOST_AWAY_MS = 8 * 60 * 60_000;
const UNIT_MS = 5_000;
const NOTHING_HIDDEN = { hidden: [], keptAside: [] };
const CANNOT = 'this computer does not do that';

export interface RestartParts {
  readonly sessionId: string;
  readonly serviceUrl: string;
  readonly token: string;
  readonly keys: SessionKeys;
  readonly stateFolder: string;
  /** With which this program is started again. */
  readonly options: readonly string[];
  /** Titles of the windows here. */
  titles(): Promise<readonly string[]>;
  readonly warn: Warn;
}

/** A computer that goes down and comes back, under Linux with systemd's logind. */
export class LinuxRestart implements RestartPort {
  readonly computer = hostname();
  readonly account = userInfo().username;
  readonly #parts: RestartParts;
  readonly #logind: Logind;
  readonly #uid = process.getuid?.() ?? -1;
  readonly #listeners = new Set<() => void>();
  #note: ReturnNote | undefined;
  #isGoingDown = false;
  #returned: ReturnAgreement | undefined;

  private constructor(parts: RestartParts, logind: Logind, note: ReturnNote | undefined) {
    this.#parts = parts;
    this.#logind = logind;
    this.#note = note;
  }

  /** `note`: what an earlier start left, which this one has to undo in the end. Throws where there is no logind. */
  static async open(parts: RestartParts, note: ReturnNote | undefined): Promise<LinuxRestart> {
    const restart = new LinuxRestart(parts, await Logind.open(), note);
    await restart.#logind.onGoingDown(() => restart.#goesDown());
    return restart;
  }

  /** This program goes with its computer, and comes back with it. */
  get isGoingDown(): boolean {
    return this.#isGoingDown;
  }
  get returned(): ReturnAgreement | undefined {
    return this.#returned;
  }
  /** With the pairs that were taken: what was agreed before the computer went down comes back. */
  begins(): void {
    const { keys } = this.#parts;
    const isBack = keys.isOfEarlierBoot || this.#note?.how === 'sign-out';
    // Whoever ended this program, and not the computer, is asked anew.
    if (!isBack && keys.agreement) keys.agree(undefined);
    this.#returned = keys.agreement;
    this.#asAlways();
  }

  async look(signal: AbortSignal): Promise<RestartOutlook> {
    const { titles } = this.#parts;
    const logind = this.#logind;
    const parts: (readonly [what: string, found: () => HitFound[] | Promise<HitFound[]>])[] = [
      ['windows', async () => unsaved(await titles())],
      ['packages', () => packages()],
      ['others', () => others(logind, this.#uid)],
      ['prints', () => prints(signal)],
      ['battery', () => battery()],
      ['disk', () => diskKey()],
      ['sign-in', () => (signsInByItself(this.account) ? [] : [{ hit: 'sign-in' }])],
    ];
    const hits = await Promise.all(
      parts.map(async ([what, found]) => {
        try {
          return await found();
        } catch (error) {
          this.#parts.warn(String(error), `what a restart meets could not be found out: ${what}`);
          return [];
        }
      }),
    );
    signal.throwIfAborted();
    const canRestart = await logind.canRestart();
    const hows: RestartHow[] = [
      ...(canRestart ? (['restart', 'bare'] as const) : []),
      ...((await this.#own()) ? (['sign-out'] as const) : []),
    ];
    return { hits: hits.flat(), hows, canSignIn: canRestart && canSignInOnce() };
  }

  async keep(agreement: ReturnAgreement): Promise<void> {
    this.#parts.keys.agree(agreement);
    const untilMs = Date.now() + MOST_AWAY_MS;
    if (this.#note && isReturning(this.#places)) return this.#write({ ...this.#note, untilMs });
    const { sessionId, serviceUrl, token, stateFolder, options } = this.#parts;
    // Before anything is changed: whoever comes later finds what to undo.
    const note: ReturnNote = {
      ...{ version: 1, sessionId, serviceUrl, token, untilMs },
      ...{ hasLinger: this.#note?.hasLinger ?? false, hidden: [], keptAside: [] },
    };
    this.#write(note);
    const command = installCopy(this.#places.dataHome);
    const account = { name: this.account, uid: this.#uid };
    registerReturning(this.#places, [...command, 'return', ...options]);
    try {
      const hasLinger = await registerSteps(this.#places, { command, stateFolder }, account);
      if (hasLinger) this.#write({ ...note, hasLinger });
    } catch (error) {
      // It comes back all the same; what it does before somebody signs in is not told.
      this.#parts.warn(String(error), 'nothing can be told before somebody signs in');
    }
  }

  async goDown(how: RestartHow): Promise<void> {
    if (!this.#note) throw new RestartRefused(CANNOT);
    const bare = how === 'bare' ? planBareStart(this.#places.configHome, configDirs()) : NOTHING_HIDDEN;
    this.#write({ ...this.#note, how, hidden: [...bare.hidden], keptAside: [...bare.keptAside] });
    beginBareStart(this.#places.configHome, bare);
    this.#isGoingDown = true;
    try {
      if (how === 'sign-out') await this.#signOut();
      else await this.#logind.restart();
    } catch (error) {
      this.#isGoingDown = false;
      this.#parts.warn(String(error), 'the computer does not go down');
      throw new RestartRefused(CANNOT);
    }
  }

  stayUp(): void {
    this.#isGoingDown = false;
    this.#asAlways();
  }

  onGoingDown(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Nothing of it stays: the session is over, or nothing comes back. */
  async forget(): Promise<void> {
    this.#parts.keys.agree(undefined);
    const note = this.#note;
    if (!note) return;
    this.#note = undefined;
    await undo(note, this.#parts.stateFolder);
  }
  close(): void {
    this.#logind.close();
  }

  get #places() {
    return entryPlaces(process.env, homedir());
  }
  /** What was prepared for one start alone is over. */
  #asAlways(): void {
    if (this.#note?.how === undefined) return;
    endBareStart(this.#places.configHome, this.#note);
    const { how: _how, ...note } = this.#note;
    this.#write({ ...note, hidden: [], keptAside: [] });
  }
  #write(note: ReturnNote): void {
    this.#note = note;
    writeNote(this.#parts.stateFolder, note);
  }
  /** The session that this program runs in, as logind knows it. */
  async #own(): Promise<string | undefined> {
    const own = await this.#logind.ownSession();
    return own?.uid === this.#uid ? own.id : undefined;
  }
  async #signOut(): Promise<void> {
    const id = await this.#own();
    if (id === undefined) throw new RestartRefused(CANNOT);
    // It begins with the computer, and that stays up.
    await runCommand('systemctl', ['--user', 'daemon-reload'], AbortSignal.timeout(UNIT_MS));
    await runCommand('systemctl', ['--user', 'start', '--no-block', RETURN_UNIT], AbortSignal.timeout(UNIT_MS));
    await this.#logind.signOut(id);
  }
  #goesDown(): void {
    if (!this.#note || this.#isGoingDown) return;
    this.#isGoingDown = true;
    for (const listener of this.#listeners) listener();
  }
}

const configDirs = (): string[] => (process.env['XDG_CONFIG_DIRS'] || '/etc/xdg').split(':').filter(Boolean);

/** Takes away all that a note says was put somewhere, and the note last. */
export async function undo(note: ReturnNote, stateFolder: string): Promise<void> {
  const places = entryPlaces(process.env, homedir());
  endBareStart(places.configHome, note);
  await unregisterReturn(places, process.getuid?.() ?? -1, note.hasLinger);
  forgetKeys(stateFolder, note.sessionId);
  removeNote(stateFolder, note.sessionId);
  if (!isRegistered(places)) removeCopy(places.dataHome);
}

/** Of several notes the newest comes back: of the others nothing stays but what it needs itself. */
export function dropOlder(notes: readonly ReturnNote[], stateFolder: string): ReturnNote | undefined {
  const [newest, ...older] = notes;
  if (!newest || !older.length) return newest;
  const places = entryPlaces(process.env, homedir());
  const kept = { ...newest, hasLinger: notes.some(({ hasLinger }) => hasLinger) };
  writeNote(stateFolder, kept);
  for (const note of older) {
    endBareStart(places.configHome, note);
    forgetKeys(stateFolder, note.sessionId);
    removeNote(stateFolder, note.sessionId);
  }
  return kept;
}
