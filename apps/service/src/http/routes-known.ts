import { operations } from '@porch/wire';
import { V1 } from './serve.ts';

const known = operations.map(({ method, path }) => ({
  method,
  isAt: new RegExp(`^/api${V1}${path.replaceAll('.', '\\.').replace(/\{\w+\}/g, '[^/]+')}$`),
}));

/** What can be done at an address of the API; nothing: there is no such address. */
export const methodsAt = (url: string): string[] => {
  const path = url.split('?')[0] ?? '';
  return known
    .filter(({ isAt }) => isAt.test(path))
    .map(({ method }) => method)
    .sort();
};
