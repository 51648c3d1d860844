import type { LiveConnection } from '@porch/client';
import type { OpenAsk, Participant, Permission, PointTouches, SessionCommand, WhyNot } from '@porch/core';
import type { Rect } from '@porch/screen';
import type { Held } from './consent/held.ts';
import type { Monitor } from './picture/screen-source.ts';
import type { Clock, Randomness } from '@porch/wire';
import type { DrawingWords } from './ports/desktop-ports.ts';
import type { HostPorts } from './ports/host-ports.ts';
import type { Answer, Question } from './ports/question.ts';
import type { ActEnded } from './ports/programs-port.ts';
import type { RaisedBack, RaisedOrder, RaisedService, RaisedSignIn } from './ports/rights-port.ts';
import type { ScriptEnded } from './ports/runbook-port.ts';
import type { HostWords } from '@porch/words/host';

/** Where a program says what it did, and what went wrong. */
export interface HostLog {
  info(what: object, words: string): void;
  warn(what: object, words: string): void;
  error(what: object, words: string): void;
}

/** A display that is shared: where it lies, its generation, and when the picture of an update was replaced by a newer one. */
export interface PictureNow {
  readonly generation: number;
  readonly monitor: Rect;
  /** The number of the last update that was sent of it. */
  readonly newest: number;
  /** By this computer's clock; undefined while it is the newest. */
  replacedAtMs(update: number): number | undefined;
}

/** What somebody may do as this computer's administrator, each time told: actions of the runbook, services, one sign-in, and nothing else. */
export interface RaisedHere {
  run(
    order: RaisedOrder,
    what: string,
    how: { may(): boolean; print(text: string): void; readonly signal: AbortSignal },
  ): Promise<ScriptEnded>;
  service(order: RaisedService, what: string, how: { may(): boolean; readonly signal: AbortSignal }): Promise<ActEnded>;
  /** What of going back to a safe point only an administrator may. */
  putBack(order: RaisedBack, what: string, how: { may(): boolean; readonly signal: AbortSignal }): Promise<ScriptEnded>;
  /** The account is signed in by itself at the next start of the computer, and never again. */
  signInOnce(order: RaisedSignIn, what: string, how: { may(): boolean; readonly signal: AbortSignal }): Promise<void>;
}

/** What one ability offers another one that needs it. */
export interface Shared {
  /** Of what is shown; undefined while that display is not. */
  aim(display: number): PictureNow | undefined;
  /** Where a display lies on the screen; undefined while nothing is shown, or where there is none. */
  monitorOf(display: number): Monitor | undefined;
  /** What is shown of a display now, words 0x00RRGGBB, what must not be seen covered; undefined while it is not shown. */
  pixels(display: number): { width: number; height: number; pixels: Uint32Array } | undefined;
  /** The path of a file that a technician gave and that has arrived; undefined for any other. */
  arrivedFile(fileId: string, signKey: string): string | undefined;
  /** Saves what is about to be changed, for whoever may have that done; false where nothing was saved. */
  makeSafePoint(from: Participant, name: string, touches: PointTouches): Promise<boolean>;
  /** Administrator rights that this technician has now. */
  raisedFor(signKey: string): RaisedHere | undefined;
  /** Whether nobody sits between this program and that technician's, as far as anybody could find out. */
  isProven(participantId: string): boolean;
  /** Whether this technician may work while nobody is here. */
  mayBeAlone(signKey: string): boolean;
  /** Whether the person here said that they do something private. */
  isPrivate(): boolean;
  /** The picture goes on though a password is typed: answers whether it rested for that. */
  endPasswordPause(): boolean;
}

/** Before any ability offers something. */
export const nothingShared = (): Shared => ({
  aim: () => undefined,
  monitorOf: () => undefined,
  pixels: () => undefined,
  arrivedFile: () => undefined,
  makeSafePoint: () => Promise.resolve(false),
  raisedFor: () => undefined,
  isProven: () => false,
  mayBeAlone: () => false,
  isPrivate: () => false,
  endPasswordPause: () => false,
});

/** A yes that was given before: by a standing consent, or for the return after a restart; and its end. */
export interface Cover {
  readonly untilMs: number;
  readonly by: 'standing' | 'return';
}

/** What an ability gets to do its part at the customer's side. */
export interface Kit {
  readonly connection: LiveConnection;
  readonly held: Held;
  readonly ports: HostPorts;
  readonly shared: Shared;
  readonly log: HostLog;
  readonly time: Clock;
  readonly words: HostWords;
  readonly desk: DeskFacts;
  readonly random: Randomness;
  /** Several questions in one turn. */
  inTurn<T>(work: (put: (question: Question) => Promise<Answer | undefined>) => Promise<T>): Promise<T>;
  /** Asks the person, one thing at a time. Undefined when the question was taken away. */
  ask(question: Question, signal?: AbortSignal): Promise<Answer | undefined>;
  /** While a question is open, nothing is injected. */
  readonly isAsking: boolean;
  /** What any customer is asked before a session. */
  askAtTheDoor(): Promise<void>;
  /** Writes a fact down and delivers it, now or when the line is back. */
  report(make: (fact: number) => SessionCommand): void;
  /** Takes one permission back on behalf of the person here, at once, and says why. */
  withdraw(participantId: string, permission: Permission, why: string): void;
  /** Ends everything at once, with or without the service. */
  stop(why: string): void;
  readonly isStopped: boolean;
  /** Something that was allowed, or done, is not any longer, or the other way round. */
  changed(): void;
  /** The same, and resolves once the person here could read it. */
  shown(): Promise<void>;
}

/** What this program knows of the desk that it talks to. */
export interface DeskFacts {
  readonly deskName: string;
  readonly deskPhone: string;
  readonly noticeVersion: string;
  readonly awayAfterMs: number;
  readonly controlNeedsComparedWords: boolean;
  readonly maxClipboardBytes: number;
  readonly refusedFileKinds: readonly string[];
  /** Programs and services that nobody ends or changes from the desk. */
  readonly untouchedPrograms: readonly string[];
  readonly maxSafePointBytes: number;
  /** Administrator rights fall back by themselves after this. */
  readonly rightsMs: number;
  readonly carefulLabels: readonly { readonly label: string; readonly isNever: boolean }[];
  readonly maxFileBytes: number;
}

/** More than a yes was agreed on: what is to be carried out once it is granted. */
export interface Plan {
  carryOut(): Promise<void>;
}
/** What the bar says: who, what they do, and what else is so. */
export interface BannerLine {
  readonly what: string;
  readonly besides: readonly string[];
  /** Its button says how to go on. */
  readonly isPrivate?: true;
  /** The person here can draw, or does. */
  readonly draw?: string;
  readonly drawing?: DrawingWords;
  /** What the button for the microphone says. */
  readonly mute?: string;
  /** What the button for files on their way says. */
  readonly files?: string;
}

/** An ability that has begun. Everything but `close` is optional. */
export interface Running {
  /** What is allowed, or who looks, may have changed. */
  changed?(): void;
  /** Why something that is allowed is not done just now. */
  pauses?(permission: Permission, signKey: string): string | undefined;
  /** What answers an ask by itself; undefined when the person here is to be asked. */
  covers?(ask: OpenAsk): Cover | undefined;
  /** Something was taken back here, in this very tick and whether or not anybody hears of it; undefined: everything. */
  takenBack?(participantId?: string, permission?: Permission): void;
  /** Whether this ask is refused without a question: the service should not have passed it on. */
  refuses?(ask: OpenAsk): boolean;
  /** For an ask that needs more than a yes. Undefined: it does not. */
  plan?(
    ask: OpenAsk,
    put: (question: Question) => Promise<Answer | undefined>,
  ): Promise<Plan | 'no' | undefined> | undefined;
  /** A third way beside yes and no, on the question for an ask. */
  more?(
    ask: OpenAsk,
    put: (question: Question) => Promise<Answer | undefined>,
  ): { readonly words: string; choose(): Promise<void> } | undefined;
  /** What the bar says, going on from what other abilities said of it. */
  banner?(soFar: BannerLine): BannerLine;
  /** What the bar says while nobody looks; undefined when there is nothing to say. */
  barAlone?(): { readonly who: string; readonly what: string } | undefined;
  /** Said behind a technician's name. */
  noteOn?(participantId: string): string | undefined;
  /** Undone within two seconds. */
  close(): void | Promise<void>;
}

/** Begins an ability with the port that it needs; without that it does nothing, and nobody is asked for it. */
export const beginWith = <P>(port: P | undefined, begin: (port: P) => Running): Running =>
  port ? begin(port) : { close: () => undefined };

/** What the person should know before they say yes. */
export interface Asked {
  readonly permission: Permission;
  readonly firstName: string;
  readonly words: HostWords;
  clockAt(inMs: number): string;
}

export interface HostAbility {
  /** As its folder in every layer is called. */
  readonly name: string;
  /** Why this computer cannot do it; undefined when it can. */
  whyNot(permission: Permission, ports: HostPorts): WhyNot | undefined;
  warn?(asked: Asked, ports: HostPorts): string | undefined;
  begin(kit: Kit): Running;
}
