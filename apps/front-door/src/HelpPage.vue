<script setup lang="ts">
import type { EntryStatus } from '@porch/wire';
import { AppError } from '@porch/wire';
import type { z } from 'zod';
import { onMounted, onUnmounted, reactive, ref } from 'vue';
import { goTo, inWords, rest } from './door.ts';

/** Kept in the browser, so that closing it does not lose the place. */
const KEPT = 'porch-queue-place';
const LOOK_MS = 2_000;

const form = reactive({
  name: '',
  address: '',
  topic: '',
  language: 'en' as 'en' | 'no' | 'de',
  description: '',
  ticketRef: '',
});
const topics = ref<string[]>([]);
const status = ref<z.infer<typeof EntryStatus>>();
const trouble = ref('');
const isBusy = ref(false);
let timer: ReturnType<typeof setInterval> | undefined;

onMounted(async () => {
  try {
    topics.value = (await rest.desk()).topics;
    form.topic = topics.value[0] ?? '';
  } catch (error) {
    trouble.value = inWords(error);
  }
  if (localStorage.getItem(KEPT)) await look();
  timer = setInterval(() => void look(), LOOK_MS);
});
onUnmounted(() => clearInterval(timer));

async function look(): Promise<void> {
  const token = localStorage.getItem(KEPT);
  if (!token) return;
  try {
    const now = await rest.entry(token);
    trouble.value = '';
    if (now.joinToken) {
      localStorage.removeItem(KEPT);
      await rest.join({ link: now.joinToken, as: 'page' });
      goTo('/session');
    } else status.value = now.entry.state === 'waiting' ? now : undefined;
  } catch (error) {
    // Gone for good only if the desk does not know it; a line that is away comes back.
    if (error instanceof AppError && error.code === 'ENTRY_NOT_FOUND') {
      localStorage.removeItem(KEPT);
      status.value = undefined;
    } else trouble.value = inWords(error);
  }
}
async function send(): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  try {
    const { ticketRef, ...rest_ } = form;
    const made = await rest.request({ ...rest_, ...(ticketRef.trim() ? { ticketRef: ticketRef.trim() } : {}) });
    localStorage.setItem(KEPT, made.token ?? '');
    status.value = made;
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
async function leave(): Promise<void> {
  const token = localStorage.getItem(KEPT);
  localStorage.removeItem(KEPT);
  status.value = undefined;
  if (token) await rest.leaveQueue(token).catch((error: unknown) => (trouble.value = inWords(error)));
}
</script>

<template>
  <main>
    <template v-if="status">
      <h1>You are in the queue</h1>
      <section class="card asks" role="status">
        <p>
          Your place: <b class="tabular" data-test="place">{{ status.place }}</b>
        </p>
        <p>Keep this page open, or come back to it: your place stays yours.</p>
      </section>
      <p class="quiet">{{ status.entry.topic }}: {{ status.entry.description }}</p>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <button @click="leave">Leave the queue</button>
    </template>
    <form v-else @submit.prevent="send">
      <h1>Ask for help</h1>
      <label for="name">Your name</label>
      <input id="name" v-model="form.name" required maxlength="120" autocomplete="name" />
      <label for="address">Mail address or telephone</label>
      <input id="address" v-model="form.address" required maxlength="200" autocomplete="email" />
      <label for="topic">What is it about?</label>
      <select id="topic" v-model="form.topic">
        <option v-for="topic in topics" :key="topic">{{ topic }}</option>
      </select>
      <label for="language">Language</label>
      <select id="language" v-model="form.language">
        <option value="en">English</option>
        <option value="no">Norsk</option>
        <option value="de">Deutsch</option>
      </select>
      <label for="description">What happens?</label>
      <textarea id="description" v-model="form.description" required maxlength="2000" rows="4" />
      <label for="ticket">Ticket, if you have one</label>
      <input id="ticket" v-model="form.ticketRef" maxlength="40" placeholder="MF-201" />
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <p><button class="first" :disabled="isBusy">Send</button></p>
    </form>
  </main>
</template>
