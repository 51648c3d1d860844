import { createApp, h } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import PictureView from './PictureView.vue';

/**
 * Shows one display in a window of its own. It lives in this page: connection, keys and lease stay where they are, and
 * the window closes with the session or with its own button. Undefined when the browser allows no window.
 */
export function openStageWindow(session: ConsoleSession, display: number, name: string): Window | undefined {
  const other = window.open('', `porch-${session.id}-${display}`, 'popup,width=1024,height=700');
  if (!other) return undefined;
  other.document.title = `${name} · Zesty Porch`;
  other.document.head.replaceChildren(
    ...[...document.head.querySelectorAll('style, link[rel=stylesheet]')].map((node) => node.cloneNode(true)),
  );
  const place = other.document.createElement('main');
  Object.assign(place.style, { position: 'fixed', inset: '0', display: 'grid' });
  other.document.body.replaceChildren(place);
  const app = createApp({ render: () => h(PictureView, { session, display, scale: 'fit' }) });
  app.mount(place);
  other.addEventListener('pagehide', () => app.unmount(), { once: true });
  return other;
}
