import { fetchExchange, RestClient, Unreachable } from '@porch/client';
import { AppError, type DeskView } from '@porch/wire';
import { shallowRef } from 'vue';
import { w } from './words/index.ts';

/** One thing a page: which one, by the path. */
export type Place =
  | { name: 'code' }
  | { name: 'link'; token: string }
  | { name: 'session' }
  | { name: 'help' }
  | { name: 'box' }
  | { name: 'receipt' };

export const rest = new RestClient(fetchExchange());
export const place = shallowRef<Place>(placeOf(location.pathname));

function placeOf(path: string): Place {
  const token = /^\/join\/([\w-]+)$/.exec(path)?.[1];
  if (token) return { name: 'link', token };
  if (path.startsWith('/session')) return { name: 'session' };
  if (path.startsWith('/help')) return { name: 'help' };
  if (path.startsWith('/receipt')) return { name: 'receipt' };
  if (path.startsWith('/box')) return { name: 'box' };
  return { name: 'code' };
}

export function goTo(path: string): void {
  history.pushState(undefined, '', path);
  place.value = placeOf(path);
  window.scrollTo(0, 0);
}
window.addEventListener('popstate', () => (place.value = placeOf(location.pathname)));

let coming: Promise<DeskView> | undefined;
/** The desk as it is now, asked for once by all who want it at the same moment; pages are called after it. */
export function askDesk(): Promise<DeskView> {
  coming ??= rest
    .desk()
    .then((desk) => {
      document.title = desk.deskName;
      return desk;
    })
    .finally(() => (coming = undefined));
  return coming;
}

/** In the customer's language; a failure that the pages do not know is named by its code, for the desk. */
export function inWords(error: unknown): string {
  if (error instanceof AppError) {
    const { codes, other } = w.value.trouble;
    return Object.hasOwn(codes, error.code) ? codes[error.code as keyof typeof codes] : other({ code: error.code });
  }
  return w.value.trouble[error instanceof Unreachable ? 'offline' : 'page'];
}
