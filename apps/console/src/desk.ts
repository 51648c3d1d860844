import { fetchExchange, RestClient } from '@porch/client';
import { AppError, type TechnicianView } from '@porch/wire';
import { inject, shallowRef, type InjectionKey, type ShallowRef } from 'vue';
import { OwnPreferences } from './own-preferences.ts';
import { OpenSessions } from './features/session/open-sessions.ts';

/** What every page of the console shares: who is signed in, the service, the sessions that are open here. */
export interface Desk {
  readonly rest: RestClient;
  readonly me: ShallowRef<TechnicianView | undefined>;
  readonly sessions: OpenSessions;
  readonly preferences: OwnPreferences;
}
export const deskKey: InjectionKey<Desk> = Symbol('desk');

export function makeDesk(): Desk {
  const rest = new RestClient(fetchExchange());
  return { rest, me: shallowRef(), sessions: new OpenSessions(), preferences: new OwnPreferences(rest) };
}

export function useDesk(): Desk {
  const desk = inject(deskKey);
  if (!desk) throw new Error('the desk was not provided');
  return desk;
}

/** Asks who is signed in here. No is what the service says; while it cannot be asked, nobody is thrown out. */
export async function isSignedIn({ rest, me }: Desk): Promise<boolean> {
  try {
    me.value = await rest.me();
    return true;
  } catch (error) {
    return !(error instanceof AppError && error.code === 'SIGN_IN_NEEDED');
  }
}
