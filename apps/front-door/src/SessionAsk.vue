<script setup lang="ts">
import { permissionCatalogue, type OpenAsk } from '@porch/core';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';

const props = defineProps<{ session: CustomerSession; ask: OpenAsk }>();
const emit = defineEmits<{ trouble: [why: string] }>();

/** Nobody answers what they have not seen: a press in the first second was meant for something else. */
const READ_MS = 1_000;
const isRead = ref(false);
let timer: ReturnType<typeof setTimeout> | undefined;
onMounted(() => (timer = setTimeout(() => (isRead.value = true), READ_MS)));
onUnmounted(() => clearTimeout(timer));

const state = computed(() => props.session.state.value);
const first = computed(
  () => (state.value.participants[props.ask.participantId]?.name ?? 'The technician').split(' ')[0],
);
const wanted = computed(() => props.ask.permissions.map((p) => permissionCatalogue[p].customerLabel).join(', '));
const { showing } = props.session.share;

async function attempt(work: () => Promise<unknown>): Promise<void> {
  emit('trouble', '');
  await work().catch((error: unknown) => emit('trouble', inWords(error)));
}
const refuse = () =>
  attempt(() => props.session.connection.command({ type: 'refuseAsk', askId: props.ask.id, fact: undefined }));
const allow = () => attempt(() => props.session.share.allow(props.ask));
</script>

<template>
  <section class="card asks" role="status" data-test="ask">
    <template v-if="session.isDoorstepThere.value">
      <h2>Look at your screen</h2>
      <p>{{ first }} asks to {{ wanted }}. You say yes in the window there; you can say no here, too.</p>
      <button @click="refuse">No</button>
    </template>
    <template v-else>
      <h2>May {{ first }} {{ wanted }}?</h2>
      <p v-if="showing">They would see what you show already: {{ showing }}.</p>
      <p v-else>
        You choose what: one tab, one window or the whole screen. {{ first }} can look at it, and cannot press anything.
      </p>
      <div class="pair">
        <button data-test="allow" :disabled="!isRead" @click="allow">
          {{ showing ? 'Yes' : 'Yes, let me choose' }}
        </button>
        <button :disabled="!isRead" @click="refuse">No</button>
      </div>
    </template>
  </section>
</template>
