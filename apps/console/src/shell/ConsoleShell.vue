<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRoute, useRouter, type RouteLocationRaw } from 'vue-router';
import { isSignedIn, useDesk } from '../desk.ts';
import { followPorch } from '../features/porch/usePorch.ts';
import { pictureTool } from '../abilities/picture/tool.ts';
import OpenSession from './OpenSession.vue';

const desk = useDesk();
const { rest, me, sessions } = desk;
const router = useRouter();
const route = useRoute();
const hasPictures = ref(false);
/** Small pictures are of sessions that are not on the stage already. */
const canHavePictures = computed(() =>
  sessions.list.value.some((s) => s.tool(pictureTool).mayLook.value && route.path !== `/session/${s.id}`),
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
    <header class="bar">
      <span class="name" aria-hidden="true"><i class="light" /> Zesty Porch</span>
      <nav aria-label="Places">
        <RouterLink to="/">The porch</RouterLink>
        <RouterLink to="/devices">Devices</RouterLink>
        <RouterLink to="/past-sessions">Past sessions</RouterLink>
      </nav>
      <span class="grow" />
      <RouterLink to="/sign-ins" title="Where you are signed in">{{ me?.name }}</RouterLink>
      <NButton size="small" ghost color="#f4efe2" @click="signOut">Sign out</NButton>
    </header>
    <div class="place"><RouterView :key="$route.fullPath" /></div>
    <footer v-if="sessions.list.value.length" class="open" aria-label="Open sessions">
      <OpenSession
        v-for="s in sessions.list.value"
        :key="s.id"
        :session="s"
        :has-picture="hasPictures && route.path !== `/session/${s.id}`"
      />
      <NButton
        v-if="canHavePictures"
        size="tiny"
        :aria-pressed="hasPictures"
        data-test="small-pictures"
        @click="hasPictures = !hasPictures"
        >{{ hasPictures ? 'Hide the pictures' : 'Show the pictures' }}</NButton
      >
    </footer>
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
  gap: 0.4rem 1.2rem;
  padding: 0.45rem 1rem;
  background: var(--harbour);
  color: var(--on-harbour);
}
.bar a {
  color: var(--on-harbour);
  margin-right: 1rem;
  padding: 0.2rem 0;
}
.bar a.router-link-exact-active {
  border-bottom: 3px solid #f2b84b;
  text-decoration: none;
}
.bar :focus-visible {
  outline-color: #f2b84b;
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
}
.place {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.open {
  display: flex;
  align-items: end;
  gap: 0.5rem;
  padding: 0.35rem 0.8rem;
  background: var(--card);
  border-top: 1px solid var(--line);
  overflow-x: auto;
}
</style>
