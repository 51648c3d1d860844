import { clockSince } from '@porch/client';
import type { PasswordCare } from '@porch/core';
import { defineKept } from '../cli-ability.ts';

/** What `porch status` says of what is for nobody else just now. */
export interface PrivateNow {
  /** They said that they do something private. */
  readonly isPrivate: boolean;
  /** They type a password: its field is covered, or the picture rests. Null: not as far as anybody knows. */
  readonly password: { readonly care: PasswordCare; readonly sinceMs: number; readonly for: string } | null;
}

export const keptPasswords = defineKept({
  name: 'passwords',
  calls: {},
  begin({ connection }) {
    const now = (): PrivateNow => {
      const { passwords, presence } = connection.state.slices;
      const { typing } = passwords;
      return {
        isPrivate: presence.privateAt.length > 0,
        password: typing
          ? { care: typing.care, sinceMs: typing.sinceMs, for: clockSince(connection.serviceNowMs - typing.sinceMs) }
          : null,
      };
    };
    return { status: () => ({ private: now() }), close: () => undefined };
  },
  answer: {},
});
