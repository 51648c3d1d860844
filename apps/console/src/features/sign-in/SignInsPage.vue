<script setup lang="ts">
import { inBackground } from '@porch/client';
import { programWords } from '@porch/core';
import type { SignInView } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onScopeDispose, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';

/** Somebody who signs in elsewhere stands here within this time. */
const LOOK_AGAIN_MS = 5_000;

const { rest } = useDesk();
const now = useNow();
const signIns = ref<SignInView[]>();
const trouble = ref('');
const said = ref('');
const others = computed(() => signIns.value?.filter((s) => !s.isThisOne) ?? []);
const nameOf = (s: SignInView) => `${programWords(s.program)}, ${exactly(s.begunAtMs)}`;

async function look(): Promise<void> {
  try {
    signIns.value = await rest.signIns();
    trouble.value = '';
  } catch (error) {
    trouble.value = inWords(error);
  }
}
async function end(which: readonly string[] | 'all-others'): Promise<void> {
  try {
    const { ended } = await rest.endSignIns(which === 'all-others' ? which : [...which]);
    said.value = `${ended} ended. Whatever was open there is closed.`;
  } catch (error) {
    trouble.value = inWords(error);
    return;
  }
  await look();
}
inBackground('reading where you are signed in', look());
const timer = setInterval(() => inBackground('reading where you are signed in', look()), LOOK_AGAIN_MS);
onScopeDispose(() => clearInterval(timer));
</script>

<template>
  <main class="sign-ins">
    <h1>Where you are signed in</h1>
    <p class="quiet">
      Is one of these not you? End it, and tell your lead: whoever has it could do what you can. Each ends by itself
      after a working day.
    </p>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <p class="quiet" role="status">{{ said }}</p>
    <NSpin v-if="!signIns && !trouble" description="Reading where you are signed in" />
    <ul v-else-if="signIns" class="rows">
      <li v-for="s in signIns" :key="s.id" class="card" data-test="sign-in">
        <div>
          <b>{{ programWords(s.program) }}</b><template v-if="s.isThisOne"> · this one</template>
          <p class="quiet">
            From <span class="tabular">{{ s.address }}</span> · signed in
            <span :title="exactly(s.begunAtMs)">{{ ago(s.begunAtMs, now) }}</span>
          </p>
        </div>
        <NButton v-if="!s.isThisOne" :aria-label="`End ${nameOf(s)}`" @click="end([s.id])">End</NButton>
      </li>
    </ul>
    <p v-if="signIns && !others.length" class="quiet">You are signed in nowhere else.</p>
    <NButton v-else-if="others.length > 1" class="all" data-test="end-others" @click="end('all-others')"
      >End all but this one</NButton
    >
  </main>
</template>

<style scoped>
.sign-ins {
  max-width: 44rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 0.8rem;
}
.sign-ins > p {
  margin: 0;
}
.card {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.8rem;
  align-items: center;
}
.card p {
  margin: 0.15rem 0 0;
}
.all {
  justify-self: start;
}
</style>
