<script setup lang="ts">
import { NButton } from 'naive-ui';
import { useRouter } from 'vue-router';
import { useDesk } from '../desk.ts';

const { rest, me, sessions } = useDesk();
const router = useRouter();
const phases = {
  prepared: 'waits for the customer',
  joining: 'at the door',
  live: 'under way',
  ended: 'ended',
  logged: 'logged',
};

async function signOut(): Promise<void> {
  sessions.closeAll();
  await rest.signOut().catch(() => undefined); // Gone here whatever the service says; the token ends by itself.
  me.value = undefined;
  await router.push('/sign-in');
}
</script>

<template>
  <div class="shell">
    <header class="bar">
      <span class="name" aria-hidden="true"><i class="light" /> Zesty Porch</span>
      <nav aria-label="Places">
        <RouterLink to="/">The porch</RouterLink>
        <RouterLink to="/record">The record</RouterLink>
      </nav>
      <span class="grow" />
      <span>{{ me?.name }}</span>
      <NButton size="small" ghost color="#f4efe2" @click="signOut">Sign out</NButton>
    </header>
    <div class="place"><RouterView :key="$route.fullPath" /></div>
    <footer v-if="sessions.list.value.length" class="open" aria-label="Open sessions">
      <RouterLink v-for="s in sessions.list.value" :key="s.id" :to="`/session/${s.id}`">
        {{ s.state.value.customerName ?? 'Nobody yet' }} ·
        {{ s.failed.value ? 'not yours any longer' : phases[s.state.value.phase.name] }}
        <b v-if="s.unread.value" class="tabular">{{ s.unread.value }} new</b>
      </RouterLink>
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
  gap: 0.5rem;
  padding: 0.35rem 0.8rem;
  background: var(--card);
  border-top: 1px solid var(--line);
  overflow-x: auto;
}
.open a {
  padding: 0.15rem 0.7rem;
  border: 1px solid var(--quiet);
  border-radius: 8px 8px 0 0;
  color: inherit;
  text-decoration: none;
  white-space: nowrap;
}
.open a.router-link-exact-active {
  border: 2px solid var(--accent);
}
.open b {
  color: var(--amber);
}
</style>
