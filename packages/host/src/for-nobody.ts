import { rulesOf, type Permission } from '@porch/core';

/** What rests while something private is done: the picture, what needs it, hands, and what says so of itself. */
export function isForNobody(permission: Permission): boolean {
  const { restsInPrivate, showsPicture, isHandsOn, needs } = rulesOf(permission);
  return (restsInPrivate ?? showsPicture ?? isHandsOn ?? (needs && rulesOf(needs).showsPicture)) === true;
}
