import { InputLease, LEASE_SILENCE_MS, MissedTyping, type LeaseState } from '@porch/client';
import type { InputAct } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { pictureTool } from '../picture/tool.ts';
import { w } from '../../words/index.ts';

/** How long the stage says that input was not done. */
const DROPPED_WORD_MS = 4_000;
/** How often it is looked whether what did not arrive is too old to be meant. */
const FORGET_MS = 10_000;
/** What was explained once in this browser is not explained again. */
const EXPLAINED = 'porch-explained-';
const isExplained = (what: string) => localStorage.getItem(EXPLAINED + what) !== null;

/** The customer's mouse and keyboard, aimed at what a stage shows. */
class InputTool implements Tool {
  readonly state = shallowRef<LeaseState>({ name: 'closed', why: '' });
  readonly dropped = shallowRef('');
  readonly isWorking = computed(() => this.state.value.name === 'open' || this.state.value.name === 'paused');
  /** What a press of `toggle` does now, in words. */
  readonly toggleLabel = computed(() => (this.isWorking.value ? w.value.input.pause : w.value.input.work));
  readonly mayWork = computed(() => (void this.#session.told.value, this.#session.may('control-input')));
  /** What was typed and did not reach them. */
  readonly missed = new MissedTyping();
  readonly missedText = shallowRef('');
  /** Said once: what fingers do, and where keys are that a system keeps. */
  readonly word = shallowRef<'touch' | 'system-keys'>();
  /** The key that is this page's own: called wherever somebody presses it at the stage. */
  onLeader: () => void = () => undefined;
  readonly #session: ConsoleSession;
  readonly #lease: InputLease;
  #workedDisplay = 0;
  #droppedTimer: ReturnType<typeof setTimeout> | undefined;
  readonly #forgetTimer: ReturnType<typeof setInterval>;

  constructor(session: ConsoleSession) {
    this.#session = session;
    const picture = session.tool(pictureTool);
    this.#lease = new InputLease(session.connection, () => picture.aimAt(this.#workedDisplay));
    this.#lease.listeners.on('state', (now) => {
      if (now.name === 'open') this.missed.back();
      if (now.name === 'closed' && now.why === 'the line is gone') this.#gone(picture.ageMs ?? 0);
      else if (now.name === 'closed' && now.why.startsWith('nothing was heard')) this.#gone(LEASE_SILENCE_MS);
      this.state.value = now;
    });
    this.#lease.listeners.on('dropped', (why) => {
      this.dropped.value = why;
      clearTimeout(this.#droppedTimer);
      this.#droppedTimer = setTimeout(() => (this.dropped.value = ''), DROPPED_WORD_MS);
    });
    picture.onOld = () => {
      this.#gone(picture.ageMs ?? 0);
      this.#lease.release();
    };
    this.#forgetTimer = setInterval(() => {
      this.missed.forgetOld(performance.now());
      this.missedMore();
    }, FORGET_MS);
    picture.windows.onKeep = this.keep;
    picture.isWorked = () => this.#lease.state.name === 'open';
  }

  /** Where somebody works, or last did. */
  get workedDisplay(): number {
    return this.#workedDisplay;
  }
  readonly open = (): void => this.#lease.open();
  readonly release = (): void => this.#lease.release();
  readonly toggle = (): void => (this.isWorking.value ? this.release() : this.open());
  /** Told from a window whose clock goes on while this page's is slowed down. */
  readonly keep = (): void => this.#lease.keep();

  /** Works one display; what is aimed at is what its stage shows. False when it was not sent. */
  readonly act = (display: number, act: InputAct): boolean => {
    const picture = this.#session.tool(pictureTool);
    if (picture.isOld || !picture.isShown(display)) return false;
    this.#workedDisplay = display;
    const isSent = this.#lease.act(act);
    if (isSent && (!('isDown' in act) || act.isDown) && act.act !== 'move') picture.noteAct();
    return isSent;
  };
  readonly askToWork = (): Promise<void> => this.#session.ask('control-input');

  readonly missedMore = (): void => {
    this.missedText.value = this.missed.text;
  };
  readonly forgetMissed = (): void => {
    this.missed.back();
    this.missed.forget();
    this.missedMore();
  };
  readonly explain = (what: 'touch' | 'system-keys'): void => {
    if (!isExplained(what)) this.word.value = what;
  };
  readonly understood = (): void => {
    if (this.word.value) localStorage.setItem(EXPLAINED + this.word.value, 'yes');
    this.word.value = undefined;
  };

  hidden(): void {
    if (this.#session.tool(pictureTool).windows.isAnyOpen) return;
    this.#lease.release();
    this.forgetMissed();
  }
  close(): void {
    clearTimeout(this.#droppedTimer);
    clearInterval(this.#forgetTimer);
    this.#lease.close();
  }

  /** Only who was working typed for them. */
  #gone(sinceMs: number): void {
    if (!this.isWorking.value) return;
    const nowMs = performance.now();
    this.missed.gone(nowMs - sinceMs, nowMs);
    this.missedMore();
  }
}

export const inputTool = defineTool({ name: 'input', begin: (session) => new InputTool(session) });
