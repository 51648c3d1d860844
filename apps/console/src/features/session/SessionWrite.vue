<script setup lang="ts">
import { inBackground } from '@porch/client';
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import { customersName } from '../../customers-name.ts';
import { inWords } from '../../in-words.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const words = ref('');
const aside = ref('');
const trouble = ref('');
const first = computed(() => customersName(props.session.state.value));
const isOpen = computed(() => props.session.state.value.phase.name !== 'logged');

async function send(box: 'words' | 'aside'): Promise<void> {
  const text = (box === 'words' ? words : aside).value.trim();
  if (!text) return;
  trouble.value = '';
  if (box === 'words') words.value = '';
  else aside.value = '';
  try {
    if (box === 'words')
      await props.session.connection.command({ type: 'sendChat', messageId: crypto.randomUUID(), text });
    else await props.session.connection.aside(text);
  } catch (error) {
    // What was not sent goes back into its box, never lost and never into the other one.
    (box === 'words' ? words : aside).value = text;
    trouble.value = inWords(error);
  }
}
/** Enter sends, with Shift it begins a line; what is being composed is not sent half. */
function sendOnEnter(event: KeyboardEvent, box: 'words' | 'aside'): void {
  if (event.key !== 'Enter' || event.shiftKey || event.isComposing) return;
  event.preventDefault();
  inBackground('sending', send(box));
}
</script>

<template>
  <div v-if="isOpen" class="write">
    <form class="to-customer" data-box="chat" @submit.prevent="send('words')">
      <NInput
        v-model:value="words"
        type="textarea"
        :autosize="{ minRows: 1, maxRows: 3 }"
        size="small"
        :placeholder="w.writing.to({ name: first })"
        :input-props="{ 'aria-label': w.writing.messageTo({ name: first }), maxlength: 4000 }"
        data-test="chat-box"
        @keydown="sendOnEnter($event, 'words')"
      />
      <NButton attr-type="submit" type="primary" size="small" data-test="chat-send">{{
        w.writing.sendTo({ name: first })
      }}</NButton>
    </form>
    <form class="to-colleagues" data-box="aside" @submit.prevent="send('aside')">
      <NInput
        v-model:value="aside"
        type="textarea"
        :autosize="{ minRows: 1, maxRows: 3 }"
        size="small"
        :placeholder="w.writing.colleaguesOnly"
        :input-props="{ 'aria-label': w.writing.asideLabel, maxlength: 4000 }"
        @keydown="sendOnEnter($event, 'aside')"
      />
      <NButton attr-type="submit" size="small">{{ w.writing.writeAside }}</NButton>
    </form>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  justify-items: end;
  gap: 0.3rem;
  padding: 0.35rem 0.5rem;
}
.to-colleagues {
  background: var(--aside-ground);
  border-top: 1px dashed var(--quiet);
}
p {
  color: var(--red);
  margin: 0;
  padding: 0 0.6rem 0.4rem;
}
</style>
