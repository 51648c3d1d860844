<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { w } from './words/index.ts';

const props = defineProps<{ session: CustomerSession }>();
const words = ref('');
const trouble = ref('');
const list = ref<HTMLUListElement>();
const chats = computed(() =>
  props.session.told.value.flatMap((e) =>
    e.event.type === 'chatSent'
      ? [
          {
            seq: e.seq,
            who: e.who,
            text: e.event.personal?.text ?? '',
            isMine: props.session.state.value.participants[e.event.by]?.side === 'customer',
          },
        ]
      : [],
  ),
);
watch(chats, () => list.value?.scrollTo({ top: list.value.scrollHeight }), { immediate: true, flush: 'post' });

async function send(): Promise<void> {
  const text = words.value.trim();
  if (!text) return;
  words.value = '';
  trouble.value = '';
  try {
    await props.session.connection.command({ type: 'sendChat', messageId: crypto.randomUUID(), text });
  } catch (error) {
    words.value = text;
    trouble.value = inWords(error);
  }
}
</script>

<template>
  <section class="card" aria-labelledby="talk">
    <h2 id="talk">{{ w.talk.title }}</h2>
    <ul ref="list" aria-live="polite" tabindex="0" :aria-label="w.talk.messages" data-test="chat">
      <li v-for="chat in chats" :key="chat.seq" :class="{ mine: chat.isMine }">
        <b>{{ chat.isMine ? w.talk.you : chat.who }}</b><br />{{ chat.text }}
      </li>
      <li v-if="!chats.length" class="quiet">{{ w.talk.none }}</li>
    </ul>
    <form @submit.prevent="send">
      <label class="only-heard" for="words">{{ w.talk.yours }}</label>
      <input id="words" v-model="words" maxlength="4000" autocomplete="off" />
      <button class="first">{{ w.talk.send }}</button>
    </form>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 0.6rem;
  max-height: 18rem;
  overflow: auto;
}
li {
  padding: 0.3rem 0;
  overflow-wrap: anywhere;
}
form {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
}
</style>
