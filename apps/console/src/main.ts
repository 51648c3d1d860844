import '@fontsource-variable/atkinson-hyperlegible-next';
import './base.css';
import { AppError } from '@porch/wire';
import { createApp } from 'vue';
import { createRouter, createWebHistory } from 'vue-router';
import App from './App.vue';
import { deskKey, makeDesk } from './desk.ts';
import PorchPage from './features/porch/PorchPage.vue';
import DevicesPage from './features/devices/DevicesPage.vue';
import RecordPage from './features/record/RecordPage.vue';
import RecordSession from './features/record/RecordSession.vue';
import SessionPage from './features/session/SessionPage.vue';
import SignInPage from './features/sign-in/SignInPage.vue';
import ConsoleShell from './shell/ConsoleShell.vue';

const desk = makeDesk();
const router = createRouter({
  history: createWebHistory('/console/'),
  routes: [
    { path: '/sign-in', component: SignInPage },
    {
      path: '/',
      component: ConsoleShell,
      children: [
        { path: '', component: PorchPage },
        { path: 'session/:id', component: SessionPage, props: true },
        { path: 'devices', component: DevicesPage },
        { path: 'record', component: RecordPage },
        { path: 'record/:id', component: RecordSession, props: true },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
router.beforeEach(async (to) => {
  if (to.path === '/sign-in' || desk.me.value) return true;
  try {
    desk.me.value = await desk.rest.me();
    return true;
  } catch (error) {
    if (error instanceof AppError && error.code === 'SIGN_IN_NEEDED') return '/sign-in';
    // Not reachable: let the page come up and say so itself.
    return true;
  }
});
const titles: Record<string, string> = {
  '/': 'The porch',
  '/record': 'The record',
  '/devices': 'Devices',
  '/sign-in': 'Sign in',
};
router.afterEach((to) => {
  document.title = `${titles[to.path] ?? (to.path.startsWith('/session') ? 'Session' : 'Ledger')} · Zesty Porch`;
});
createApp(App).provide(deskKey, desk).use(router).mount('#app');
