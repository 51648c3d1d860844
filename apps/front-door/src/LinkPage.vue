<script setup lang="ts">
import { ref } from 'vue';
import { useI18n } from 'vue-i18n';
import { goTo, inWords, rest } from './door.ts';

const { t } = useI18n();
const props = defineProps<{ token: string }>();
const trouble = ref('');
const isBusy = ref(false);

/** Only a person's press counts: programs that look at links in mails must not use one up. */
async function go(): Promise<void> {
  isBusy.value = true;
  try {
    await rest.join({ link: props.token, as: 'page' });
    goTo('/session');
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
</script>

<template>
  <main>
    <h1>{{ t('link.title') }}</h1>
    <p>{{ t('link.next') }}</p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <button class="first" :disabled="isBusy" @click="go">{{ t('link.go') }}</button>
  </main>
</template>
