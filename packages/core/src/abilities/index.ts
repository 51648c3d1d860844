import { z } from 'zod';
import { speechOf } from '@porch/words';
import type { LedgerWords } from '@porch/words/ledger/shape';
import type { AbilityShape, AbilityWords, AnyOf, Handed, Table, Telling } from '../ability/ability-shape.ts';
import { who } from '../ability/fields.ts';
import type { SessionView } from '../ability/session-view.ts';
import { byType } from '../by-type.ts';
import type { PermissionRules } from '../permission/permission-rules.ts';
import { administratorRights } from './administrator-rights/shape.ts';
import { camera } from './camera/shape.ts';
import { checkWords } from './check-words/shape.ts';
import { clipboard } from './clipboard/shape.ts';
import { commandLine } from './command-line/shape.ts';
import { desktops } from './desktops/shape.ts';
import { drawing } from './drawing/shape.ts';
import { files } from './files/shape.ts';
import { handsOff } from './hands-off/shape.ts';
import { input } from './input/shape.ts';
import { ownScreen } from './own-screen/shape.ts';
import { oneProgram } from './one-program/shape.ts';
import { passwords } from './passwords/shape.ts';
import { picture } from './picture/shape.ts';
import { presence } from './presence/shape.ts';
import { prints } from './prints/shape.ts';
import { programs } from './programs/shape.ts';
import { restartAndReturn } from './restart-and-return/shape.ts';
import { riskyActs } from './risky-acts/shape.ts';
import { runbook } from './runbook/shape.ts';
import { safePoints } from './safe-points/shape.ts';
import { screenshot } from './screenshot/shape.ts';
import { sound } from './sound/shape.ts';
import { speaking } from './speaking/shape.ts';
import { standing } from './standing/shape.ts';
import { systemReport } from './system-report/shape.ts';
import { toCome } from './to-come/shape.ts';

/** All abilities, in the order in which their permissions are listed: what another one needs stands before it. */
export const abilities = [
  picture,
  input,
  drawing,
  screenshot,
  files,
  clipboard,
  sound,
  speaking,
  camera,
  ownScreen,
  handsOff,
  checkWords,
  systemReport,
  programs,
  safePoints,
  riskyActs,
  runbook,
  commandLine,
  administratorRights,
  restartAndReturn,
  prints,
  desktops,
  toCome,
  presence,
  oneProgram,
  passwords,
  standing,
] as const;

/*
 * From here on nothing names an ability. This file alone derives types from the list: an ability sees its own slice and a
 * view of the session, never the whole, so that no type goes round in a circle.
 */
type Ability = (typeof abilities)[number];
type EventsOf<A> = A extends { readonly events: infer E extends Table } ? AnyOf<E> : never;
export type AbilityEvent = { [K in Ability['name']]: EventsOf<Extract<Ability, { name: K }>> }[Ability['name']];
export type Permission = {
  [K in Ability['name']]: keyof Extract<Ability, { name: K }>['permissions'];
}[Ability['name']];
export type Slices = { readonly [K in Ability['name']]: Extract<Ability, { name: K }>['initial'] };

/** An ability whose own types are forgotten: the fold below ties each event to its owner by its type. */
type Plain = AbilityShape<string, Readonly<Record<string, PermissionRules>>, Table, unknown, AbilityWords<string>>;
const plain = abilities as unknown as readonly Plain[];

const owners = byType(
  'event',
  plain.flatMap((ability) => Object.keys(ability.events).map((type) => [type, ability] as const)),
);
const ownerOf = byType(
  'permission',
  plain.flatMap((ability) => Object.keys(ability.permissions).map((permission) => [permission, ability] as const)),
);
export const abilityEventSchemas = plain.flatMap(({ events }) =>
  Object.entries(events).map(([type, fields]) => z.looseObject({ type: z.literal(type), by: who, ...fields })),
);
export const permissionCatalogue = byType(
  'permission',
  plain.flatMap(({ permissions }) => Object.entries(permissions)),
) as ReadonlyMap<Permission, PermissionRules>;

/** What this program knows of each ability: told in `hello`, so that senders use the least version of each pair. */
export const abilityVersions: Readonly<Record<string, number>> = Object.fromEntries(
  plain.map(({ name, version }) => [name, version]),
);
/** From which level of the records on each event of an ability is written, where it is not the first. */
export const abilityLevels: readonly (readonly [type: string, level: number])[] = plain.flatMap(
  ({ events, since, sinceOf }) =>
    Object.keys(events).flatMap((type) => {
      const level = sinceOf?.[type] ?? since;
      return level === undefined ? [] : [[type, level] as const];
    }),
);
/** The same for what an ability's permissions lead to. */
export const permissionLevel = (permission: string): number => ownerOf.get(permission)?.since ?? 1;
/** Which ability a permission belongs to. */
export const abilityOf: ReadonlyMap<string, string> = new Map(
  [...ownerOf].map(([permission, { name }]) => [permission, name]),
);

export const initialSlices = Object.fromEntries(plain.map(({ name, initial }) => [name, initial])) as unknown as Slices;

export const isAbilityEvent = (event: { readonly type: string }): event is AbilityEvent => owners.has(event.type);

const withSlice = (slices: Slices, { name }: Plain, change: (slice: unknown) => unknown): Slices => {
  const slice: unknown = slices[name as keyof Slices];
  const next = change(slice);
  return next === slice ? slices : { ...slices, [name]: next };
};
const withEach = (slices: Slices, change: (ability: Plain, slice: unknown) => unknown): Slices =>
  plain.reduce((next, ability) => withSlice(next, ability, (slice) => change(ability, slice)), slices);

/** What an ability's event makes true: it changes that ability's slice, and nothing besides. */
export function evolveAbility(slices: Slices, event: AbilityEvent, view: SessionView): Slices {
  const owner = owners.get(event.type);
  if (!owner) return slices;
  return withSlice(slices, owner, (slice) => owner.evolve[event.type]?.(slice, event, view) ?? slice);
}
/** What follows in every ability when a permission of somebody ends. */
export const abilitiesFell = (slices: Slices, permission: string, participantId: string): Slices =>
  withEach(slices, ({ fell }, slice) => (fell ? fell(slice, permission, participantId) : slice));
export const abilitiesLeft = (slices: Slices, participantId: string, wasHolder: boolean): Slices =>
  withEach(slices, ({ left }, slice) => (left ? left(slice, participantId, wasHolder) : slice));
export const abilitiesEnded = (slices: Slices): Slices =>
  withEach(slices, ({ ended }, slice) => (ended ? ended(slice) : slice));

/** Everything that went from one side to the other, as the customer's copy lists it. */
export const abilitiesHanded = (slices: Slices): Handed[] =>
  plain.flatMap(({ name, handed }) => [...(handed?.(slices[name as keyof Slices]) ?? [])]);

/** One sentence of an ability's event, for technicians or the customer. */
export function tellAbility(
  to: 'technician' | 'customer',
  event: AbilityEvent,
  telling: Omit<Telling, 'words'>,
  slices: Slices,
  book: LedgerWords,
): string {
  const owner = owners.get(event.type);
  const slice: unknown = owner && slices[owner.name as keyof Slices];
  return owner?.tell[event.type]?.[to](event, { ...telling, words: owner.words(book) }, slice) ?? event.type;
}

type PermissionWords = keyof AbilityWords<string>;
const wordsOf = (kind: PermissionWords, permission: Permission, book: LedgerWords): string =>
  ownerOf.get(permission)?.words(book)[kind][permission] ?? permission;
/** What a technician may do, in the customer's words: "Pim may …", "May Pim …?". */
export const customersAct = (permission: Permission, book: LedgerWords): string =>
  wordsOf('permissions', permission, book);
/** The same in a technician's words, inside a sentence. */
export const techniciansAct = (permission: Permission, book: LedgerWords): string => wordsOf('acts', permission, book);
/** The same as it stands by itself. */
export const permissionLabel = (permission: Permission, book: LedgerWords): string =>
  speechOf(book.language).capital(techniciansAct(permission, book));
/** What is undone the moment it is given back. */
export const whatIsUndone = (permission: Permission, book: LedgerWords): string => wordsOf('undone', permission, book);

/** Events of abilities that belong into the story of what was done. */
export const abilityStory: ReadonlySet<string> = new Set(plain.flatMap(({ inStory }) => inStory));
