import type { z } from 'zod';
import type { RefusalCode, Refusal } from '../decision.ts';
import type { PartAction } from '../people/part.ts';
import type { PermissionRules } from '../permission/permission-rules.ts';
import type { NotedFact } from './noted-facts.ts';
import type { AbilityWords, AbilityShape, AnyOf, Table } from './ability-shape.ts';
import type { PersonView, SessionView } from './session-view.ts';

/* What an ability is to the service: its commands, and what becomes of them. */

/** What came too late to change anything is noted all the same, in words of the list of noted facts. */
export interface Noted<What extends string = string> {
  readonly noted: What;
}

/** What becomes of a command: events of this ability's own, a refusal, or a note that it came too late. */
export type AbilityDecision<E extends Table> = readonly AnyOf<E>[] | Refusal | Noted<NotedFact>;

export type CommandRow<C extends Table, T extends keyof C> = { readonly type: T } & z.output<z.ZodObject<C[T]>>;
export type AnyCommand<C extends Table> = { [T in keyof C & string]: CommandRow<C, T> }[keyof C & string];

export interface AbilityRules<E extends Table, Slice, C extends Table, Policy> {
  readonly commands: C;
  /** What each is, to the table of parts: whoever may not do that is refused before it is looked at. */
  readonly actions: { readonly [T in keyof C]: PartAction };
  readonly decide: {
    readonly [T in keyof C]: (
      slice: Slice,
      command: CommandRow<C, T>,
      me: PersonView,
      view: SessionView,
      policy: Policy,
    ) => AbilityDecision<E>;
  };
  /**
   * Commands that give something back which was taken away. One that is older than what its sender told already does not:
   * played again, or out of order, it would undo what was said since.
   */
  readonly givesBack?: { readonly [T in keyof C]?: (command: CommandRow<C, T>) => boolean };
  /** When something comes to pass by itself; undefined while nothing does. */
  readonly nextMs?: (slice: Slice) => number | undefined;
  /** What came to pass by itself until now. */
  readonly timePassed?: (slice: Slice, nowMs: number) => readonly AnyOf<E>[];
  /** Why a permission, of whatever ability, may not be asked by this participant just now. */
  readonly holdsBack?: (
    view: SessionView,
    slice: Slice,
    asked: { readonly permission: string; readonly rules: PermissionRules; readonly participantId: string },
    policy: Policy,
  ) => RefusalCode | undefined;
}

export const defineRules = <
  Name extends string,
  P extends Readonly<Record<string, PermissionRules>>,
  E extends Table,
  Slice,
  Words extends AbilityWords<keyof P & string>,
  const C extends Table,
  Policy = unknown,
>(
  shape: AbilityShape<Name, P, E, Slice, Words>,
  rules: AbilityRules<E, Slice, C, Policy>,
): { readonly shape: AbilityShape<Name, P, E, Slice, Words>; readonly rules: AbilityRules<E, Slice, C, Policy> } => ({
  shape,
  rules,
});
