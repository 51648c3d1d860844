import type { ShownMark } from '@porch/client';
import type { Answer, Question } from './question.ts';

/* What abilities need of a computer, each as small as one ability needs it. Any of them may be missing somewhere. */

/** The person at the computer. */
export interface PersonPort {
  /** Asks are shown, and answered with `Host.allow`, in a form of their own: nothing is put here. */
  readonly answersElsewhere?: true;
  /** Undefined when `signal` took the question away. */
  ask(question: Question, signal: AbortSignal): Promise<Answer | undefined>;
  /** They used their own mouse or keyboard. */
  onLocalInput(listener: () => void): () => void;
}

export interface BannerWords {
  readonly who: string;
  readonly what: string;
  readonly stop: string;
  readonly hide: string;
  /** Begins a private moment, or ends it. */
  readonly private: string;
  /** How the Control key is called here: the keys stand beneath the buttons. */
  readonly control: string;
}

/** What is always in sight while anybody may do anything, and what is always within reach. */
export interface BannerPort {
  /** Undefined takes the banner away. */
  showBanner(words: BannerWords | undefined): Promise<void>;
  onStop(listener: () => void): () => void;
  /** The person wants to choose what is not shown. */
  onHideWanted(listener: () => void): () => void;
  /** The person begins something private, or is done with it. */
  onPrivateWanted(listener: () => void): () => void;
  /** The person takes mouse and keyboard back, by a key. */
  onTakeBackWanted(listener: () => void): () => void;
}

/** Mouse and keyboard, used in the person's place. */
export interface HandsPort {
  movePointer(x: number, y: number): void;
  button(button: 'left' | 'middle' | 'right', isDown: boolean): void;
  wheel(stepsX: number, stepsY: number): void;
  /** `may` is asked in the very tick that presses: what waited for the desktop is not pressed when it says no. */
  key(key: string, isDown: boolean, may: () => boolean): Promise<void>;
  /** Typed in small pieces, each after `may` said yes. Answers how many characters were typed. */
  type(text: string, may: () => boolean): Promise<number>;
  /** Lets go of every key and button that was pressed through us. */
  releaseAll(): void;
  /** Resolves once the desktop has answered. Never, while it stands still. */
  answers(): Promise<void>;
}

/** A copy of what is shown, for marks on it. */
export interface CopyPort {
  showMarks(marks: readonly ShownMark[]): void;
}

/** A program with windows on this desktop, by the title of one of them. */
export interface ProgramWindows {
  readonly program: number;
  readonly title: string;
  readonly isHidden: boolean;
}

/** Windows that never leave the computer. */
export interface HidingPort {
  /** Never shows windows of programs with such a title, from now on; answers how many were found. */
  hideTitled(words: string): Promise<number>;
  listPrograms(): Promise<ProgramWindows[]>;
  /** These programs' windows never leave the computer from now on; those of others may again. */
  setHidden(programs: readonly number[]): Promise<void>;
}
