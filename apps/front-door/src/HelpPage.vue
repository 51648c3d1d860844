<script setup lang="ts">
import { inBackground } from '@porch/client';
import { AppError, type DeskView, type EntryStatus } from '@porch/wire';
import { computed, onMounted, onUnmounted, reactive, ref, shallowRef } from 'vue';
import { askDesk, goTo, inWords, rest } from './door.ts';
import HelpWaiting from './HelpWaiting.vue';
import { language, speak, speech, w, waitInWords } from './words/index.ts';

/** Kept in the browser, so that closing it does not lose the place. */
const KEPT = 'porch-queue-place';
const LOOK_MS = 2_000;

const form = reactive({
  name: '',
  address: '',
  topic: '',
  language: language.value,
  description: '',
  ticketRef: '',
  wants: 'screen' as 'screen' | 'chat',
  callBack: '',
});
const desk = shallowRef<DeskView>();
const status = shallowRef<EntryStatus>();
const trouble = ref('');
const told = ref('');
const isBusy = ref(false);
let timer: ReturnType<typeof setInterval> | undefined;
const knownFaults = computed(() => desk.value?.knownFaults.filter((n) => n.topic === form.topic) ?? []);
const isShut = computed(() => desk.value !== undefined && (!desk.value.isOpen || desk.value.isFull));
/** As it is called in their language; one that the desk has no longer is called as it was filed. */
const topicWords = computed(() => {
  const filed = status.value?.entry.topic ?? '';
  return desk.value?.topics.find(({ topic }) => topic === filed)?.words[language.value] ?? filed;
});
const wait = computed(() => waitInWords(desk.value?.estimate));

onMounted(async () => {
  // A place that somebody got for us, at the ticket system for one, comes in the address and goes from there at once.
  const given = /^#place=([\w-]+)$/.exec(location.hash)?.[1];
  if (given) {
    localStorage.setItem(KEPT, given);
    history.replaceState(undefined, '', location.pathname);
  }
  try {
    desk.value = await askDesk();
    form.topic = desk.value.topics[0]?.topic ?? '';
    // What the service takes from the directory anyway; the form has to have something.
    if (desk.value.person) Object.assign(form, desk.value.person);
  } catch (error) {
    trouble.value = inWords(error);
  }
  await look();
  timer = setInterval(() => inBackground('looking at the queue', look()), LOOK_MS);
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
async function attempt(work: () => Promise<unknown>): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
  isBusy.value = false;
}
const send = () =>
  attempt(async () => {
    // Asking goes on without the words, should they not come.
    inBackground('fetching the words', speak(form.language, true));
    const { ticketRef, callBack, ...rest_ } = form;
    const made = await rest.request({
      ...rest_,
      ...(ticketRef.trim() ? { ticketRef: ticketRef.trim() } : {}),
      ...(callBack.trim() ? { callBack: callBack.trim() } : {}),
    });
    localStorage.setItem(KEPT, made.token ?? '');
    status.value = made;
  });
const happensToMe = (id: string) =>
  attempt(async () => {
    await rest.happensToo(id, { name: form.name, address: form.address });
    told.value = w.value.help.happensTooDone;
  });
const say = (text: string) =>
  attempt(async () => {
    const token = localStorage.getItem(KEPT);
    if (token) status.value = await rest.sayInQueue(token, text);
  });
async function leave(): Promise<void> {
  const token = localStorage.getItem(KEPT);
  localStorage.removeItem(KEPT);
  status.value = undefined;
  if (token) await rest.leaveQueue(token).catch((error: unknown) => (trouble.value = inWords(error)));
}
</script>

<template>
  <main>
    <HelpWaiting v-if="status" :status="status" :topic="topicWords" :trouble="trouble" @say="say" @leave="leave" />
    <form v-else @submit.prevent="send">
      <h1>{{ w.help.title }}</h1>
      <section v-if="desk" class="card" :class="{ asks: isShut }" role="status" data-test="desk-now">
        <p v-if="!desk.isOpen">{{ w.help.closed({ when: speech.weekdayAndTime(desk.opensAtMs ?? 0) }) }}</p>
        <p v-else-if="desk.isFull">{{ w.help.full }}</p>
        <p v-else>{{ wait }}</p>
        <p v-if="isShut && desk.deskPhone">{{ w.help.call({ phone: desk.deskPhone }) }}</p>
      </section>
      <template v-if="desk && !isShut && desk.needsSignIn && !desk.person">
        <p>{{ w.help.signInNeeded }}</p>
        <p>
          <a class="button first" href="/api/door/sign-in" data-test="sign-in">{{ w.help.signIn }}</a>
        </p>
      </template>
      <template v-else-if="desk && !isShut">
        <label for="topic">{{ w.help.topic }}</label>
        <select id="topic" v-model="form.topic">
          <option v-for="{ topic, words } in desk.topics" :key="topic" :value="topic">{{ words[language] }}</option>
        </select>
        <p v-if="desk.person" data-test="signed-in">{{ w.help.signedIn({ name: desk.person.name }) }}</p>
        <template v-else>
          <label for="name">{{ w.help.name }}</label>
          <input id="name" v-model="form.name" required maxlength="120" autocomplete="name" />
          <label for="address">{{ w.help.address }}</label>
          <input id="address" v-model="form.address" required maxlength="200" autocomplete="email" />
          <p v-if="desk.canSignIn">
            <a href="/api/door/sign-in">{{ w.help.signInInstead }}</a>
          </p>
        </template>
        <section v-for="fault in knownFaults" :key="fault.id" class="card asks" data-test="known">
          <h2>{{ w.help.known }}</h2>
          <p>{{ fault.text }}</p>
          <button type="button" :disabled="isBusy || !form.name || !form.address" @click="happensToMe(fault.id)">
            {{ w.help.happensToo }}
          </button>
        </section>
        <p v-if="told" role="status">{{ told }}</p>
        <label for="language">{{ w.help.language }}</label>
        <select id="language" v-model="form.language">
          <option value="en">English</option>
          <option value="no">Norsk</option>
          <option value="de">Deutsch</option>
        </select>
        <label for="description">{{ w.help.what }}</label>
        <textarea id="description" v-model="form.description" required maxlength="2000" rows="4" />
        <fieldset>
          <legend>{{ w.help.wants }}</legend>
          <label><input v-model="form.wants" type="radio" value="screen" /> {{ w.help.screen }}</label>
          <label><input v-model="form.wants" type="radio" value="chat" /> {{ w.help.chat }}</label>
        </fieldset>
        <label for="call-back">{{ w.help.callBack }}</label>
        <input id="call-back" v-model="form.callBack" maxlength="40" autocomplete="tel" type="tel" />
        <label for="ticket">{{ w.help.ticket }}</label>
        <input id="ticket" v-model="form.ticketRef" maxlength="40" />
      </template>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <p v-if="desk && !isShut && (desk.person || !desk.needsSignIn)">
        <button class="first" :disabled="isBusy">{{ w.help.send }}</button>
      </p>
    </form>
  </main>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
  margin: 0.8rem 0 0;
}
legend {
  font-weight: 600;
}
fieldset label {
  font-weight: 400;
  margin-top: 0.3rem;
}
input[type='radio'] {
  width: auto;
}
</style>
