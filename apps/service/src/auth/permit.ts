import { mayDo, type Action, type Person, type Thing } from '@porch/core';
import { AppError } from '@porch/wire';

/** Throws NOT_YOUR_ROLE for what the table of persons, actions and things does not allow. */
export function permit(person: Person, action: Action, on?: Thing): void {
  if (!mayDo(person, action, on)) throw new AppError('NOT_YOUR_ROLE');
}
