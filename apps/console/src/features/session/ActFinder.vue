<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import type { SessionAct } from './session-acts.ts';
import { w } from '../../words/index.ts';

/* Every act of a session: by its letter, or by typing what one wants. Nothing of it goes to the customer's computer. */
const props = defineProps<{ acts: readonly SessionAct[] }>();
const emit = defineEmits<{ close: [] }>();
const words = ref('');
const chosen = ref(0);
const field = ref<HTMLInputElement>();
const list = ref<HTMLElement>();
const before = document.activeElement;
const plain = (text: string) => text.toLocaleLowerCase().normalize('NFKD').replace(/\p{M}/gu, '');
const found = computed(() => {
  const wanted = plain(words.value).split(/\s+/).filter(Boolean);
  return props.acts.filter(({ label }) => wanted.every((word) => plain(label).includes(word)));
});

function close(): void {
  emit('close');
  if (before instanceof HTMLElement) before.focus();
}
function run(act: SessionAct | undefined): void {
  if (!act) return;
  close();
  act.run();
}
function move(by: number): void {
  chosen.value = (chosen.value + by + found.value.length) % Math.max(1, found.value.length);
}
/** Letters are keys until somebody goes to the field to type. */
function handleKey(event: KeyboardEvent): void {
  const isTyping = document.activeElement === field.value;
  if (event.key === 'Escape') close();
  else if (event.key === 'ArrowDown') move(1);
  else if (event.key === 'ArrowUp') move(-1);
  else if (event.key === 'Enter') run(found.value[chosen.value]);
  else if (!isTyping && event.key === '/') field.value?.focus();
  else if (!isTyping && !event.ctrlKey && !event.altKey && !event.metaKey && event.key.length === 1)
    run(props.acts.find(({ letter }) => letter?.toLowerCase() === event.key.toLowerCase()));
  else return;
  event.preventDefault();
  event.stopPropagation();
}
onMounted(() => list.value?.focus());
const outside = (event: PointerEvent) => {
  if (!list.value?.parentElement?.contains(event.target as Node)) close();
};
onMounted(() => document.addEventListener('pointerdown', outside));
onBeforeUnmount(() => document.removeEventListener('pointerdown', outside));
</script>

<template>
  <div class="finder" role="dialog" :aria-label="w.finder.title" data-test="finder" @keydown="handleKey">
    <label
      ><span class="quiet">{{ w.finder.field }}</span>
      <input ref="field" v-model="words" type="text" maxlength="80" data-test="finder-field" @input="chosen = 0"
    /></label>
    <ul ref="list" tabindex="-1" :aria-label="w.finder.acts">
      <li v-for="(act, i) in found" :key="act.name">
        <button type="button" :class="{ chosen: i === chosen }" :data-test="`act-${act.name}`" @click="run(act)">
          <span>{{ act.label }}</span>
          <kbd v-if="act.letter">{{ act.letter }}</kbd>
        </button>
      </li>
    </ul>
    <p v-if="!found.length" role="status">{{ w.finder.nothing }}</p>
    <p class="quiet">{{ w.finder.how }}</p>
  </div>
</template>

<style scoped>
.finder {
  position: absolute;
  inset: 3rem auto auto 50%;
  translate: -50%;
  z-index: 30;
  width: min(26rem, 94vw);
  max-height: 75%;
  overflow: auto;
  padding: 0.7rem;
  background: var(--card);
  border: 1px solid var(--quiet);
  border-radius: 10px;
  box-shadow: 0 6px 24px rgb(0 0 0 / 30%);
}
input {
  width: 100%;
  font: inherit;
  color: inherit;
  padding: 0.35rem 0.5rem;
  background: var(--paper);
  border: 1px solid var(--quiet);
  border-radius: 8px;
}
ul {
  margin: 0.5rem 0;
  padding: 0;
  list-style: none;
}
li button {
  width: 100%;
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  padding: 0.2rem 0.5rem;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 1px solid transparent;
  border-radius: 6px;
  cursor: pointer;
}
li button.chosen,
li button:hover {
  border-color: var(--accent);
}
kbd {
  min-width: 1.5rem;
  text-align: center;
  border: 1px solid var(--quiet);
  border-radius: 5px;
}
p {
  margin: 0;
  font-size: 0.85rem;
}
</style>
