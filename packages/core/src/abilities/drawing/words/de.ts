import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'draw-on-screen': 'auf Ihrem Bildschirm zeigen und zeichnen',
  },
  sentences: {},
};
