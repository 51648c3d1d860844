<script setup lang="ts">
import { needsCallAnswer, WhoseComputer, purposeForCustomer } from '@porch/core';
import type { DoorView } from '@porch/wire';
import { computed, onMounted, ref } from 'vue';
import { useI18n } from 'vue-i18n';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { language } from './words/index.ts';

const { t } = useI18n();
const props = defineProps<{ door: DoorView; session: CustomerSession }>();
const state = computed(() => props.session.state.value);
const name = ref(props.door.customerName);
const address = ref(props.door.customerAddress);
const computer = ref<WhoseComputer>('works');
const isMinor = ref(false);
const trouble = ref('');
const isBusy = ref(false);

onMounted(() => props.session.tellStep('reading-who-asks'));
async function attempt(work: () => Promise<unknown>): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
  isBusy.value = false;
}
const answer = (a: 'i-called' | 'they-called') =>
  attempt(() => props.session.connection.command({ type: 'answerCall', answer: a }));
const begin = () =>
  attempt(async () => {
    await props.session.connection.command({
      type: 'introduceCustomer',
      name: name.value,
      address: address.value,
      language: language(),
      computer: computer.value,
      isMinor: isMinor.value,
    });
    await props.session.connection.command({ type: 'acceptSession', noticeVersion: props.door.noticeVersion });
  });
const refuse = () =>
  attempt(() =>
    props.session.connection.command({
      type: 'endSession',
      reason: 'customer',
      why: 'did not want to begin',
      fact: undefined,
    }),
  );
</script>

<template>
  <main>
    <template v-if="needsCallAnswer(state)">
      <h1>{{ t('begin.called') }}</h1>
      <p>{{ t('begin.pretenders') }}</p>
      <div class="pair">
        <button :disabled="isBusy" @click="answer('i-called')">{{ t('begin.iCalled') }}</button>
        <button :disabled="isBusy" @click="answer('they-called')">{{ t('begin.theyCalled') }}</button>
      </div>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    </template>
    <form v-else @submit.prevent="begin">
      <h1>{{ t('begin.wants', { name: door.technicianName, desk: door.deskName }) }}</h1>
      <section class="card">
        <p v-if="door.ticketRef">
          <b>{{ t('begin.ticket', { ref: door.ticketRef }) }}</b>
        </p>
        <p>{{ purposeForCustomer(state, language()) }}</p>
      </section>
      <label for="name">{{ t('help.name') }}</label>
      <input id="name" v-model="name" required maxlength="120" autocomplete="name" />
      <label for="address">{{ t('help.address') }}</label>
      <input id="address" v-model="address" maxlength="200" autocomplete="email" />
      <details>
        <summary>{{ t('begin.notMine') }}</summary>
        <label for="computer">{{ t('begin.whose') }}</label>
        <select id="computer" v-model="computer" data-test="whose-computer">
          <option v-for="one in WhoseComputer.options" :key="one" :value="one">{{ t(`begin.${one}`) }}</option>
        </select>
        <label class="tick"><input v-model="isMinor" type="checkbox" /> {{ t('begin.minor') }}</label>
      </details>
      <p class="quiet">
        {{ t('begin.notice', { version: door.noticeVersion }) }}
      </p>
      <details data-test="notice">
        <summary>{{ t('begin.wholeNotice') }}</summary>
        <p v-for="line in door.notice[language()].split('\n')" :key="line">{{ line }}</p>
      </details>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <div class="pair">
        <button type="button" :disabled="isBusy" @click="refuse">{{ t('begin.no') }}</button>
        <button type="submit" :disabled="isBusy">{{ t('begin.yes') }}</button>
      </div>
    </form>
  </main>
</template>

<style scoped>
.tick {
  display: flex;
  gap: 0.6rem;
  align-items: center;
  font-weight: normal;
}
.tick input {
  width: auto;
}
</style>
