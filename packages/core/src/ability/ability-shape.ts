import { z } from 'zod';
import type { Speech } from '@porch/words';
import type { LedgerWords } from '@porch/words/ledger/shape';
import type { PermissionRules } from '../permission/permission-rules.ts';
import type { SessionView } from './session-view.ts';

/* What an ability is to everybody who reads a session: its permissions, its events, what they make true, its words. */

type Fields = z.ZodRawShape;
export type Table = Readonly<Record<string, Fields>>;
/** An event of a table: its type, who brought it about, and its fields. */
export type RowOf<E extends Table, T extends keyof E> = {
  readonly type: T;
  readonly by: string;
} & z.output<z.ZodObject<E[T]>>;
export type AnyOf<E extends Table> = { [T in keyof E & string]: RowOf<E, T> }[keyof E & string];

/** Who is called what when something is told, and the words in which it is. */
export interface Telling<Words = unknown> {
  /** The ability's own part of the ledger's words, in the reader's language. */
  readonly words: Words;
  readonly speech: Speech;
  /** To technicians: anybody's name, or what they are called without one. */
  nameOf(id: string): string;
  /** To the customer: the technician's name. */
  technician(id: string): string;
  isCustomers(id: string): boolean;
  /** Why something happened: what a program said is told in the reader's language, what a person wrote as it is. */
  reason(why: string): string;
}

/** Something that went from one side to the other, or was to: a row of the customer's copy. */
export interface Handed {
  /** Missing once erased. */
  readonly name: string | undefined;
  readonly sizeBytes: number;
  readonly fromId: string;
  readonly stage: 'offered' | 'moving' | 'arrived' | 'refused' | 'cancelled' | 'failed';
}

/** What an ability's permissions are called. */
export interface AbilityWords<P extends string> {
  /** What a technician may do, in the customer's words: "Pim may …", "May Pim …?". */
  readonly permissions: Readonly<Record<P, string>>;
  /** The same in a technician's words: "see the screen". */
  readonly acts: Readonly<Record<P, string>>;
  /** What is undone the moment it is taken back, to be said to the technician. */
  readonly undone: Readonly<Record<P, string>>;
}

export interface AbilityShape<
  Name extends string,
  P extends Readonly<Record<string, PermissionRules>>,
  E extends Table,
  Slice,
  Words extends AbilityWords<keyof P & string>,
> {
  readonly name: Name;
  /** Raised when it can something more; what it shipped before keeps its meaning. */
  readonly version: number;
  readonly permissions: P;
  /** From which level of the records on its events are written; the first where it says nothing. */
  readonly since?: number;
  /** The same for those that came later than the ability itself. */
  readonly sinceOf?: { readonly [T in keyof E]?: number };
  /** Without `type` and `by`, which every event has. New types are called `ability/pastTense`. */
  readonly events: E;
  readonly initial: Slice;
  /** What is true after an event of its own; one without a row changes nothing. Changes this slice only, and is total. */
  readonly evolve: { readonly [T in keyof E]?: (slice: Slice, event: RowOf<E, T>, view: SessionView) => Slice };
  /** What follows when a permission of somebody ends, for whatever reason. It cannot refuse. */
  readonly fell?: (slice: Slice, permission: string, participantId: string) => Slice;
  /** What follows when somebody leaves; whatever they held has fallen before. */
  readonly left?: (slice: Slice, participantId: string, wasHolder: boolean) => Slice;
  readonly ended?: (slice: Slice) => Slice;
  /** One sentence of an event, with what was true before it. */
  readonly tell: {
    readonly [T in keyof E & string]: {
      readonly technician: (event: RowOf<E, T>, telling: Telling<Words>, slice: Slice) => string;
      readonly customer: (event: RowOf<E, T>, telling: Telling<Words>, slice: Slice) => string;
    };
  };
  /** What went from one side to the other. */
  readonly handed?: (slice: Slice) => readonly Handed[];
  /** Its part of the ledger's words. */
  readonly words: (book: LedgerWords) => Words;
  /** Those events that belong into the story of what was done: note and brief. */
  readonly inStory: readonly (keyof E & string)[];
}

export const defineShape = <
  const Name extends string,
  const P extends Readonly<Record<string, PermissionRules>>,
  const E extends Table,
  Slice,
  Words extends AbilityWords<keyof P & string>,
>(
  shape: AbilityShape<Name, P, E, Slice, Words>,
): AbilityShape<Name, P, E, Slice, Words> => shape;
