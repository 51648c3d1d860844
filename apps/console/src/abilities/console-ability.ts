import type { LiveConnection, RestClient } from '@porch/client';
import type { Permission, SessionState, ToldEntry } from '@porch/core';
import type { Component, Ref } from 'vue';
import type { OwnPreferences } from '../own-preferences.ts';

/* What an ability is in the console: something that lives as long as the session is open, and where it is to be seen. */

/** A session as abilities see it: what is true now, and each other's tools. */
export interface ConsoleSession {
  readonly id: string;
  readonly connection: LiveConnection;
  readonly rest: RestClient;
  readonly state: Readonly<Ref<SessionState>>;
  readonly told: Readonly<Ref<readonly ToldEntry[]>>;
  readonly isHolderThere: Readonly<Ref<boolean>>;
  /** What buttons that change something call the computer that they change. */
  readonly theirComputer: Readonly<Ref<string>>;
  /** Whether the customer's page shows the picture: it can be looked at only. */
  readonly isFromBrowser: boolean;
  /** What the technician chose for themselves. */
  readonly preferences: OwnPreferences;
  /** What abilities say over the stage, wherever it stands. */
  readonly notes: readonly Component[];
  may(permission: Permission): boolean;
  /** Asks the customer, as the strip does. Throws what the service refuses. */
  ask(...permissions: Permission[]): Promise<void>;
  giveBack(permission: Permission): Promise<void>;
  tool<T extends Tool>(kind: ToolKind<T>): T;
}

/** What an ability has going while a session is open, on whatever page. */
export interface Tool {
  /** The session's page went out of sight: nothing is worked any longer. */
  hidden?(): void;
  close(): void;
}
export interface ToolKind<T extends Tool> {
  /** As the ability's folder in every layer is called. */
  readonly name: string;
  begin(session: ConsoleSession): T;
}
export const defineTool = <T extends Tool>(kind: ToolKind<T>): ToolKind<T> => kind;

/** How acts stand together on the shelf. */
export const shelfGroups = ['show', 'bring', 'look', 'run', 'together'] as const;
export type ShelfGroup = (typeof shelfGroups)[number];

/** A button on the shelf beside the stage. */
export interface ShelfItem {
  /** In the language that is spoken now. */
  readonly label: () => string;
  readonly group: ShelfGroup;
  /** Pressed after the key of this page it does the same. */
  readonly letter?: string;
  isShown(session: ConsoleSession): boolean;
  /** What opens beside it; the first time it is loaded. */
  readonly panel?: Component;
  /** What opens needs more room than what stands there otherwise: it is a table. */
  readonly isWide?: true;
  /** What the button does where nothing opens. */
  readonly button?: Component;
}

export interface ConsoleAbility {
  readonly name: string;
  readonly tool?: ToolKind<Tool>;
  readonly shelf?: ShelfItem;
  /** Said over the stage. */
  readonly note?: Component;
  /** What it adds to what is looked up beside the session, before anybody asks. */
  readonly lookUp?: { isShown(session: ConsoleSession): boolean; readonly view: Component };
  /** Stands in the strip of what is allowed, where it is in reach whatever is open: what is switched by one press. */
  readonly strip?: { isShown(session: ConsoleSession): boolean; readonly button: Component };
  /** What it put into the records of a session, shown with a past one: takes its `id`. */
  readonly kept?: Component;
  /** Said in the strip of what is allowed: what stays true for long. */
  readonly stripNote?: (session: ConsoleSession) => string | undefined;
  /** Said with the session's name, on whatever page one is: what goes on while one looks elsewhere. */
  readonly besideName?: (session: ConsoleSession) => string | undefined;
}
