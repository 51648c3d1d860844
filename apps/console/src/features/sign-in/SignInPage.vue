<script setup lang="ts">
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { callerNumber } from '../caller/caller-number.ts';
import LanguageChoice from '../../shell/LanguageChoice.vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { w } from '../../words/index.ts';

const { rest, me } = useDesk();
const router = useRouter();
const email = ref('');
const password = ref('');
const trouble = ref('');
/** Where somebody was whose sign-in ended under them. */
const route = useRoute();
const back = computed(() => {
  const { back: path } = route.query;
  return typeof path === 'string' && path.startsWith('/') ? path : undefined;
});
const isBusy = ref(false);

async function signIn(): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  try {
    me.value = (await rest.signIn(email.value.trim(), password.value, 'cookie')).technician;
    // Somebody is on the telephone already.
    const telephone = callerNumber();
    await router.push(telephone ? { path: '/caller', state: { telephone } } : (back.value ?? '/'));
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
</script>

<template>
  <main class="sign-in">
    <form class="card" @submit.prevent="signIn">
      <h1>Zesty Porch</h1>
      <p v-if="back" role="status">{{ w.signIn.signedOutHere }}</p>
      <p v-else class="quiet">{{ w.signIn.toHelp }}</p>
      <label for="email">{{ w.signIn.email }}</label>
      <NInput
        v-model:value="email"
        :input-props="{ id: 'email', type: 'email', autocomplete: 'username', required: true }"
        placeholder=""
      />
      <label for="password">{{ w.signIn.password }}</label>
      <NInput
        v-model:value="password"
        type="password"
        :input-props="{ id: 'password', autocomplete: 'current-password', required: true }"
        placeholder=""
      />
      <p v-if="trouble" role="alert">{{ trouble }}</p>
      <NButton attr-type="submit" type="primary" :loading="isBusy" block>{{ w.signIn.go }}</NButton>
      <LanguageChoice />
    </form>
  </main>
</template>

<style scoped>
.sign-in {
  min-height: 100%;
  display: grid;
  place-items: center;
  padding: 1rem;
}
form {
  width: min(24rem, 100%);
  display: grid;
  gap: 0.5rem;
  padding: 1.5rem;
}
p {
  margin: 0;
}
[role='alert'] {
  color: var(--red);
}
</style>
