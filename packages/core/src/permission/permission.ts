import { z } from 'zod';
import { permissionCatalogue, type Permission as PermissionName } from '../abilities/index.ts';
import type { PermissionRules } from './permission-rules.ts';

/** Why a permission makes no sense with whom holds the consent. */
export const WhyNot = z.enum([
  'browser-cannot',
  'computer-cannot',
  'not-in-this-release',
  'no-standing-consent-here',
  'nobody-signed-in',
  'older-program',
]);
export type WhyNot = z.infer<typeof WhyNot>;

/** One of the catalogue, which the abilities make up. */
export type Permission = PermissionName;
export const allPermissions = [...permissionCatalogue.keys()] as [Permission, ...Permission[]];
export const Permission = z.enum(allPermissions);
/** At most so many in one ask: as many as a person reads, and as fit into the question at the customer's desktop. */
export const MAX_ASKED_TOGETHER = 8;

type Rules = PermissionRules & { readonly needs?: Permission };
/** Of what this release does not know nothing is said, but that nobody here can use it. */
const unknownRules: PermissionRules = {};
export const rulesOf = (permission: Permission): Rules =>
  (permissionCatalogue.get(permission) ?? unknownRules) as Rules;

/** Those to which a rule applies, in the order of the catalogue. */
export const permissionsThat = (isSo: (rules: PermissionRules) => boolean | undefined): Permission[] =>
  allPermissions.filter((permission) => isSo(rulesOf(permission)));

/** Whoever has one of these sees something of the customer's. */
export const showingPermissions = permissionsThat((rules) => rules.showsPicture);

/** Whoever has one of these shows something of their own to the customer's side. */
export const ownShowingPermissions = permissionsThat((rules) => rules.showsOwnPicture);

/** Whoever has one of these may be handed something of the customer's. */
export const takingPermissions = permissionsThat((rules) => rules.takesAway);
/** Whoever may not ask one of these may not visit a device, either. */
export const comingBackPermissions = permissionsThat((rules) => rules.isForComingBack);

/**
 * What a colleague who goes on asks for in one question: what the first technician had, as many as may be asked together,
 * in the order of the list, so that what another one needs is there. The rest is asked when it is needed.
 */
export function askedAtHandover(held: readonly Permission[]): Permission[] {
  const wanted = held.length ? held : permissionsThat((rules) => rules.isLookingOnly);
  return allPermissions.filter((permission) => wanted.includes(permission)).slice(0, MAX_ASKED_TOGETHER);
}

/** Whether what a permission needs is there; it is nothing without. */
export function hasWhatItNeeds(permission: Permission, has: (needed: Permission) => boolean): boolean {
  const { needs } = rulesOf(permission);
  return needs === undefined || has(needs);
}

/** What nobody may have, or be asked for, beside this one. */
export const apartFrom = (permission: Permission): Permission[] =>
  allPermissions.filter(
    (other) => rulesOf(permission).neverWith?.includes(other) || rulesOf(other).neverWith?.includes(permission),
  );

/** Those permissions that fall when this one falls. */
export function dependants(permission: Permission): Permission[] {
  return allPermissions.filter((other) => rulesOf(other).needs === permission);
}

/** These and what they need, in the order of the list. */
export function withNeeds(permissions: readonly Permission[]): Permission[] {
  const wanted = new Set<string>(permissions);
  for (const permission of [...allPermissions].reverse()) {
    const { needs } = rulesOf(permission);
    if (wanted.has(permission) && needs) wanted.add(needs);
  }
  return allPermissions.filter((permission) => wanted.has(permission));
}
