<script setup lang="ts">
import { Said } from '@porch/pages';
import { inBackground } from '@porch/client';
import { programInWords } from '@porch/core';
import type { SignInView } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onScopeDispose, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { w } from '../../words/index.ts';

/** Somebody who signs in elsewhere stands here within this time. */
const LOOK_AGAIN_MS = 5_000;

const { rest } = useDesk();
const now = useNow();
const signIns = ref<SignInView[]>();
const trouble = ref('');
const said = ref('');
const others = computed(() => signIns.value?.filter((s) => !s.isThisOne) ?? []);
const programOf = ({ program }: SignInView) => programInWords(program, w.value.signIn);

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
    said.value = w.value.signIn.ended({ count: ended });
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
    <h1>{{ w.signIn.title }}</h1>
    <p class="quiet">
      {{ w.signIn.about }}
    </p>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <p class="quiet" role="status">{{ said }}</p>
    <NSpin v-if="!signIns && !trouble" :description="w.signIn.reading" />
    <ul v-else-if="signIns" class="rows">
      <li v-for="s in signIns" :key="s.id" class="card" data-test="sign-in">
        <div>
          <Said :of="w.signIn[s.isThisOne ? 'thisOne' : 'otherOne']({ program: programOf(s) })">
            <template #b="{ text }"
              ><b>{{ text }}</b></template
            >
          </Said>
          <p class="quiet">
            <Said :of="w.signIn.fromSince({ from: s.address, since: ago(s.begunAtMs, now) })">
              <template #address="{ text }"
                ><span class="tabular">{{ text }}</span></template
              >
              <template #when="{ text }"
                ><span :title="exactly(s.begunAtMs)">{{ text }}</span></template
              >
            </Said>
          </p>
        </div>
        <NButton
          v-if="!s.isThisOne"
          :aria-label="w.signIn.endOf({ program: programOf(s), when: exactly(s.begunAtMs) })"
          @click="end([s.id])"
          >{{ w.signIn.end }}</NButton
        >
      </li>
    </ul>
    <p v-if="signIns && !others.length" class="quiet">{{ w.signIn.nowhereElse }}</p>
    <NButton v-else-if="others.length > 1" class="all" data-test="end-others" @click="end('all-others')">{{
      w.signIn.endOthers
    }}</NButton>
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
