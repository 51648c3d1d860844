import type { LiveConnection, RestClient } from '@porch/client';
import type { Permission } from '@porch/core';
import type { Command } from 'commander';
import type { z } from 'zod';

/* What an ability is on the command line: its verbs, and what the process that keeps a session open does for them. */

type Fields = z.ZodRawShape;
export type CallTable = Readonly<Record<string, Fields>>;
export type CallOf<C extends CallTable, N extends keyof C> = { readonly call: N } & (keyof C[N] extends never
  ? unknown
  : z.output<z.ZodObject<C[N]>>);
export type AnyCallOf<C extends CallTable> = { [N in keyof C & string]: CallOf<C, N> }[keyof C & string];

export type Tell = (value: unknown) => void;

/** What the keeper of a session has for each ability. */
export interface KeeperKit {
  readonly connection: LiveConnection;
  readonly rest: RestClient;
  may(permission: Permission): boolean;
  /** Throws NOT_GRANTED unless it may. */
  need(permission: Permission): void;
  /** Resolves when `isTrue`, looked at after each entry and whenever an ability says so, or after `waitMs`. */
  until(isTrue: () => boolean, waitMs: number): Promise<boolean>;
  /** Something that somebody may wait for has changed. */
  changed(): void;
  kept<C extends CallTable, K extends Kept>(ability: KeptAbility<C, K>): K;
}

export interface Kept {
  /** What `porch status` says of it. */
  status?(): Readonly<Record<string, unknown>>;
  close(): void;
}
export interface KeptAbility<C extends CallTable, K extends Kept> {
  readonly name: string;
  readonly calls: C;
  begin(kit: KeeperKit): K;
  /** `tell`: one of many values; `signal`: whoever asked went away. */
  readonly answer: {
    readonly [N in keyof C]: (kept: K, call: CallOf<C, N>, tell: Tell, signal: AbortSignal) => Promise<unknown>;
  };
}
export const defineKept = <const C extends CallTable, K extends Kept>(ability: KeptAbility<C, K>): KeptAbility<C, K> =>
  ability;

/** Adds an ability's verbs to the program; what they do is loaded when one is called. */
export interface CliAbility {
  readonly name: string;
  addVerbs(program: { inSession(name: string, description: string): Command }): void;
  /** Further lines of `porch status`. */
  tellStatus?(value: Readonly<Record<string, unknown>>): Promise<void>;
}
