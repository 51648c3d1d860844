<script setup lang="ts">
import { formatCode } from '@porch/core';
import type { CodeView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, onMounted, ref } from 'vue';
import { inWords, useDesk } from '../../desk.ts';
import { countDown, useNow } from '../../times.ts';
import { customerStep } from './customer-steps.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const now = useNow();
const code = ref<CodeView>();
const codeEndsAtMs = ref(0);
const link = ref('');
const told = ref('');
const state = computed(() => props.session.state.value);
const customers = computed(() =>
  Object.values(state.value.participants).filter((p) => p.role !== 'technician' && !p.isGone),
);
const step = computed(() =>
  customerStep(customers.value.length ? (props.session.step.value ?? 'page-open') : 'nobody'),
);
const isExpired = computed(() => code.value !== undefined && codeEndsAtMs.value <= now.value);

function takeCode(view: CodeView | undefined): void {
  code.value = view;
  codeEndsAtMs.value = Date.now() + (view?.remainingMs ?? 0);
}
async function attempt(work: () => Promise<unknown>, done: string): Promise<void> {
  try {
    await work();
    told.value = done;
  } catch (error) {
    told.value = inWords(error);
  }
}
onMounted(() =>
  attempt(async () => {
    takeCode((await rest.session(props.session.id)).code);
    link.value = history.state?.link ?? '';
  }, ''),
);
const newCode = () =>
  attempt(async () => takeCode(await rest.newCode(props.session.id)), 'There is a new code; the old one is withdrawn.');
const withdraw = () =>
  attempt(async () => {
    await rest.withdrawCode(props.session.id);
    takeCode(undefined);
  }, 'The code is withdrawn.');
const post = () => attempt(() => rest.postLink(props.session.id), 'A join link is on its way into the ticket.');
const copy = () => attempt(() => navigator.clipboard.writeText(link.value), 'The link is copied.');
</script>

<template>
  <div class="waiting" data-test="waiting">
    <section class="card" role="status">
      <h2>{{ step.where }}</h2>
      <p class="say">Say: “{{ step.say }}”</p>
      <p v-if="customers.length && !session.isHolderThere.value" class="quiet">
        Doorstep is not running there yet. Until it is, you can only write to each other.
      </p>
      <p v-else-if="session.isFromBrowser" class="quiet">
        They can show a tab, a window or their screen from the browser as soon as you ask to see it. To work with mouse,
        keyboard or files, ask them to open Doorstep.
      </p>
    </section>
    <section v-if="!customers.length" class="card">
      <template v-if="code && !isExpired">
        <h2>Read this code to them</h2>
        <p class="code" data-test="code">{{ formatCode(code.digits) }}</p>
        <p class="quiet tabular">{{ countDown(codeEndsAtMs - now) }} left</p>
      </template>
      <h2 v-else>There is no open code</h2>
      <p class="buttons">
        <NButton size="small" @click="newCode">New code</NButton>
        <NButton v-if="code && !isExpired" size="small" @click="withdraw">Withdraw it</NButton>
        <NButton v-if="link" size="small" @click="copy">Copy the join link</NButton>
        <NButton v-if="state.ticketRef" size="small" type="primary" data-test="post-link" @click="post"
          >Post the link into the ticket</NButton
        >
      </p>
      <p v-if="told" role="status">{{ told }}</p>
    </section>
  </div>
</template>

<style scoped>
.waiting {
  display: grid;
  gap: 1rem;
  align-content: center;
  justify-content: center;
  padding: 1rem;
  height: 100%;
  overflow: auto;
}
.card {
  max-width: 32rem;
}
.say {
  font-size: 1.15rem;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
p {
  margin: 0.3rem 0;
}
</style>
