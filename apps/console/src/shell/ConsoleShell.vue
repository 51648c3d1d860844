<script setup lang="ts">
import { inBackground } from '@porch/client';
import { NButton } from 'naive-ui';
import { computed, defineAsyncComponent } from 'vue';
import { useRoute, useRouter, type RouteLocationRaw } from 'vue-router';
import { isSignedIn, useDesk } from '../desk.ts';
import { followPorch } from '../features/porch/usePorch.ts';
import LanguageChoice from './LanguageChoice.vue';
import { w } from '../words/index.ts';

const desk = useDesk();
const { rest, me, sessions, preferences } = desk;
const router = useRouter();
const route = useRoute();
/** Loaded once a session is open. */
const OpenSessionsBar = defineAsyncComponent(() => import('./OpenSessionsBar.vue'));

// What cannot be read is as at first: nobody is kept from their work by it.
inBackground(
  'reading what suits them',
  preferences.read().catch(() => undefined),
);

async function signOut(): Promise<void> {
  sessions.closeAll();
  await rest.signOut().catch(() => undefined); // Gone here whatever the service says; the token ends by itself.
  await leave('/sign-in');
}
async function leave(to: RouteLocationRaw): Promise<void> {
  me.value = undefined;
  await router.push(to);
}
const isInSession = computed(() => route.path.startsWith('/session/'));
/** A single session that is on the page already needs no row of its own. */
const hasOtherSessions = computed(() => sessions.list.value.some(({ id }) => route.path !== `/session/${id}`));

/** A sign-in ends after a working day, or from elsewhere: then this page says so, and lets nobody look at what is old. */
followPorch(async () => {
  if (await isSignedIn(desk)) return true;
  sessions.closeAll();
  await leave({ path: '/sign-in', query: { back: route.fullPath } });
  return false;
});
</script>

<template>
  <div class="shell">
    <header class="bar" :class="{ 'in-session': isInSession }">
      <span class="name" aria-hidden="true"><i class="light" /> Zesty Porch</span>
      <nav :aria-label="w.shell.places">
        <RouterLink to="/">{{ w.shell.porch }}</RouterLink>
        <RouterLink to="/devices">{{ w.shell.devices }}</RouterLink>
        <RouterLink to="/past-sessions">{{ w.shell.pastSessions }}</RouterLink>
        <RouterLink to="/knowledge">{{ w.shell.knowledge }}</RouterLink>
        <RouterLink to="/runbook">{{ w.shell.runbook }}</RouterLink>
      </nav>
      <span id="place-head" class="grow" />
      <LanguageChoice />
      <RouterLink to="/sign-ins" :title="w.shell.signIns">{{ me?.name }}</RouterLink>
      <NButton size="tiny" class="sign-out" ghost color="#f4efe2" @click="signOut">{{ w.shell.signOut }}</NButton>
    </header>
    <div class="place"><RouterView :key="$route.fullPath" /></div>
    <OpenSessionsBar v-if="hasOtherSessions" />
  </div>
</template>

<style scoped>
.shell {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.2rem 0.9rem;
  min-height: 36px;
  padding: 2px 0.7rem;
  background: var(--harbour);
  color: var(--on-harbour);
}
.bar a {
  color: var(--on-harbour);
  margin-right: 0.7rem;
  padding: 0.2rem 0;
  /* Where they take a second line, neither lies over the other. */
  display: inline-block;
}
/* Small ones stand close together here: each is large enough to be hit. */
.bar :deep(.n-button) {
  min-height: 24px;
  min-width: 24px;
}
.bar a.router-link-exact-active {
  border-bottom: 3px solid var(--on-harbour);
  text-decoration: none;
}
.bar :focus-visible {
  outline-color: var(--on-harbour);
}
.name {
  font-weight: 700;
}
.light {
  display: inline-block;
  width: 0.7rem;
  height: 0.7rem;
  border-radius: 50% 50% 45% 45%;
  background: #f2b84b;
}
.grow {
  flex: 1;
  min-width: 0;
  display: flex;
}
@media (max-width: 760px) {
  /* Whose session it is stands beneath the places, over the whole width. */
  #place-head {
    order: 9;
    flex-basis: 100%;
  }
}
/* In a session its own facts stand where the name of the product does elsewhere. */
.in-session .name {
  display: none;
}
/* Nobody changes their language or goes home in the middle of a session: what is of it has the room. */
@media (min-width: 761px) and (max-width: 1500px) {
  .in-session :deep(.language),
  .in-session .sign-out {
    display: none;
  }
}
.place {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
</style>
