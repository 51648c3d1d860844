import '@fontsource-variable/atkinson-hyperlegible-next';
import './base.css';
import { whenSpoken } from '@porch/pages';
import { createApp, watchEffect } from 'vue';
import { createRouter, createWebHistory } from 'vue-router';
import App from './App.vue';
import { deskKey, isSignedIn, makeDesk } from './desk.ts';
import SignInPage from './features/sign-in/SignInPage.vue';
import ConsoleShell from './shell/ConsoleShell.vue';
import { firstLanguage, speak, w } from './words/index.ts';

/** Loaded when they are wanted, and all of them as soon as the first page stands: a line that drops later finds them here. */
const pages = {
  porch: () => import('./features/porch/PorchPage.vue'),
  caller: () => import('./features/caller/CallerPage.vue'),
  session: () => import('./features/session/SessionPage.vue'),
  devices: () => import('./features/devices/DevicesPage.vue'),
  pastSessions: () => import('./features/past-sessions/PastSessionsPage.vue'),
  knowledge: () => import('./features/knowledge/KnowledgePage.vue'),
  knowledgeNote: () => import('./features/knowledge/KnowledgeNotePage.vue'),
  runbook: () => import('./features/runbook/RunbookPage.vue'),
  runbookAction: () => import('./features/runbook/RunbookActionPage.vue'),
  signIns: () => import('./features/sign-in/SignInsPage.vue'),
  pastSession: () => import('./features/past-sessions/PastSession.vue'),
};

const desk = makeDesk();
const router = createRouter({
  history: createWebHistory('/console/'),
  routes: [
    { path: '/sign-in', component: SignInPage },
    {
      path: '/',
      component: ConsoleShell,
      children: [
        { path: '', component: pages.porch },
        { path: 'caller', component: pages.caller },
        { path: 'session/:id', component: pages.session, props: true },
        { path: 'devices', component: pages.devices },
        { path: 'sign-ins', component: pages.signIns },
        { path: 'knowledge', component: pages.knowledge },
        { path: 'knowledge/:id', component: pages.knowledgeNote, props: true },
        { path: 'runbook', component: pages.runbook },
        { path: 'runbook/:id', component: pages.runbookAction, props: true },
        { path: 'past-sessions', component: pages.pastSessions },
        { path: 'past-sessions/:id', component: pages.pastSession, props: true },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
router.beforeEach(async (to) => {
  // A telephone system opens `/console/?phone=NUMBER`: the number leaves the address at once, for addresses are kept and shown.
  const { phone } = to.query;
  if (typeof phone === 'string') {
    const isIn = desk.me.value !== undefined || (await isSignedIn(desk));
    return { path: isIn ? '/caller' : '/sign-in', state: { telephone: phone }, replace: true };
  }
  if (to.path === '/sign-in' || desk.me.value) return true;
  // Not reachable: let the page come up and say so itself.
  return (await isSignedIn(desk)) ? true : '/sign-in';
});
const titles = {
  '/': 'porch',
  '/past-sessions': 'pastSessions',
  '/caller': 'caller',
  '/knowledge': 'knowledge',
  '/runbook': 'runbook',
  '/devices': 'devices',
  '/sign-ins': 'signIns',
  '/sign-in': 'signIn',
} as const satisfies Record<string, keyof typeof w.value.shell>;
function titleOf(path: string): string {
  const { shell } = w.value;
  if (Object.hasOwn(titles, path)) return shell[titles[path as keyof typeof titles]];
  if (path.startsWith('/knowledge')) return shell.knowledge;
  if (path.startsWith('/runbook')) return shell.runbook;
  return path.startsWith('/session') ? shell.session : shell.ledger;
}
// A page that is not to be had, since the service was upgraded or the line is gone: the browser says which, and tries anew.
router.onError((_error, to) => location.assign(router.resolve(to).href));
router
  .isReady()
  // Behind what the page itself wants. Those that fail are loaded when they are wanted.
  .then(() =>
    router.currentRoute.value.path === '/sign-in' ? [] : Promise.allSettled(Object.values(pages).map((load) => load())),
  )
  // A first page that cannot be had is the handler's above.
  .catch(() => undefined);
whenSpoken({ speak, firstLanguage }, () => {
  createApp(App).provide(deskKey, desk).use(router).mount('#app');
  watchEffect(() => (document.title = w.value.shell.title({ page: titleOf(router.currentRoute.value.path) })));
});
