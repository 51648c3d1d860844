import type { ScreenSource } from '@porch/client';

/** One thing asked of the person at the desktop. Both answers are the same size, and neither is chosen beforehand. */
export interface Question {
  readonly title: string;
  readonly lines: readonly string[];
  readonly yes: string;
  readonly no: string;
  /** Said while nothing counts yet, and once it does. */
  readonly readFirst: string;
  readonly onlyYou: string;
  /** Parts of what is asked, each of which can be left out. */
  readonly choices?: readonly { readonly label: string; readonly isOn: boolean }[];
  /** Exactly one of the choices holds. */
  readonly isOneOf?: true;
  /** What stands here is for the person alone: no technician sees it, even one who may look. */
  readonly isSecret?: true;
  /** A third way to go: neither yes nor no. */
  readonly more?: string;
}

/** `choices` says which parts stayed in, in their order. */
export type Answer = { readonly what: 'yes'; readonly choices: readonly boolean[] } | { readonly what: 'no' | 'more' };

/** A program with windows on this desktop, by the title of one of them. */
export interface ProgramWindows {
  readonly program: number;
  readonly title: string;
  readonly isHidden: boolean;
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

/** What Doorstep needs of a desktop. Adapters: real X11; others say what they cannot do. */
export interface Desktop extends ScreenSource {
  readonly name: string;
  /** Never shows windows of programs with such a title, from now on; answers how many were found. */
  hideTitled(words: string): Promise<number>;
  listPrograms(): Promise<ProgramWindows[]>;
  /** These programs' windows never leave the computer from now on; those of others may again. */
  setHidden(programs: readonly number[]): Promise<void>;
  movePointer(x: number, y: number): void;
  button(button: 'left' | 'middle' | 'right', isDown: boolean): void;
  wheel(stepsX: number, stepsY: number): void;
  /** `may` is asked in the very tick that presses: what waited for the desktop is not pressed when it says no. */
  key(key: string, isDown: boolean, may: () => boolean): Promise<void>;
  /** Typed in small pieces, each after `may` said yes. Answers how many characters were typed. */
  type(text: string, may: () => boolean): Promise<number>;
  /** Lets go of every key and button that was pressed through us. */
  releaseAll(): void;
  /** The person at the desktop used their own mouse or keyboard. */
  onLocalInput(listener: () => void): () => void;
  /** Undefined when `signal` took the question away. */
  ask(question: Question, signal: AbortSignal): Promise<Answer | undefined>;
  /** Undefined takes the banner away. */
  showBanner(words: BannerWords | undefined): Promise<void>;
  onStop(listener: () => void): () => void;
  /** The person at the desktop wants to choose what is not shown. */
  onHideWanted(listener: () => void): () => void;
  /** The person at the desktop begins something private, or is done with it. */
  onPrivateWanted(listener: () => void): () => void;
  /** The person at the desktop takes mouse and keyboard back, by a key. */
  onTakeBackWanted(listener: () => void): () => void;
  onGone(listener: (why: Error) => void): void;
  close(): Promise<void>;
}
