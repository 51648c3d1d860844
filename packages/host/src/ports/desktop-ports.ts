import type { ShownMark } from '@porch/client';
import type { Rect } from '@porch/screen';
import type { MarkMessage } from '@porch/wire';
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
  /** Begins drawing by the person here; missing where that is not possible just now. */
  readonly draw?: string;
  /** While they draw: what they draw with, and how to go on. */
  readonly drawing?: DrawingWords;
  /** Mutes the microphone, or opens it again; missing while there is none. */
  readonly mute?: string;
  /** Shows what is on its way; missing while nothing is. */
  readonly files?: string;
}
export interface DrawingWords {
  readonly tools: Readonly<Record<'pen' | 'arrow' | 'box', string>>;
  readonly undo: string;
  readonly clear: string;
  readonly done: string;
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
  /** The person wants to draw, or is done with it. */
  onDrawWanted(listener: () => void): () => void;
  /** The person mutes their microphone, or opens it again. */
  onMuteWanted(listener: () => void): () => void;
  /** The person wants to see which files are on their way. */
  onFilesWanted(listener: () => void): () => void;
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

/** A mark as it is to be seen: where its display lies, in what colour, and whose it is. */
export interface InkMark extends ShownMark {
  readonly monitor: Rect;
  readonly colour: string;
  readonly name: string;
}
/** Where marks are shown: above everything on the screen itself, or on a copy of what is shown. */
export interface InkPort {
  /** Whether the picture that leaves the computer has them by itself. */
  readonly isInPicture: boolean;
  /** All that are to be seen now. Resolves once they are. */
  showMarks(marks: readonly InkMark[]): Promise<void>;
  /** What the person here draws themselves, once they may. */
  onOwnMark(listener: (message: MarkMessage) => void): () => void;
  /** Lets them draw with the pointer, or no longer; where a page draws by itself there is nothing to let. */
  letDraw?(isOn: boolean): void;
}
