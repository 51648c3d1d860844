<script setup lang="ts">
import { firstName, isEffective, presentOf, standingOf, takingPermissions } from '@porch/core';
import { computed, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { speech, stageInWords, w } from './words/index.ts';

const props = defineProps<{ session: CustomerSession }>();
const trouble = ref('');
const picker = ref<HTMLInputElement>();
const state = computed(() => props.session.state.value);
const taker = computed(() =>
  presentOf(state.value, 'desk').find((t) =>
    takingPermissions.some((permission) =>
      isEffective(standingOf(state.value, t.id, permission), props.session.connection.serviceNowMs),
    ),
  ),
);
const files = computed(() => Object.values(state.value.slices.files).reverse());

function give(event: Event): void {
  const to = taker.value;
  if (!to) return;
  for (const file of (event.target as HTMLInputElement).files ?? [])
    props.session.files
      .offer(
        {
          name: file.name,
          sizeBytes: file.size,
          read: async (offset, length) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
        },
        to.id,
      )
      .catch((error: unknown) => (trouble.value = inWords(error)));
  if (picker.value) picker.value.value = '';
}
const cancel = (fileId: string) =>
  props.session.files
    .cancel(fileId, 'cancelled by the customer')
    .catch((error: unknown) => (trouble.value = inWords(error)));
</script>

<template>
  <section v-if="taker || files.length" class="card" aria-labelledby="files">
    <h2 id="files">{{ w.files.title }}</h2>
    <template v-if="taker">
      <label for="give">{{ w.files.give({ name: firstName(taker.name ?? w.session.technician) }) }}</label>
      <input id="give" ref="picker" type="file" multiple data-test="give-files" @change="give" />
    </template>
    <ul>
      <li v-for="file in files" :key="file.id">
        {{ file.name }}
        <span class="quiet"
          >({{ speech.bytes(file.sizeBytes) }}, {{ stageInWords(file.stage, session.progress.value[file.id]) }})</span
        >
        <button v-if="file.stage === 'offered' || file.stage === 'moving'" class="small" @click="cancel(file.id)">
          {{ w.files.cancel }}
        </button>
      </li>
    </ul>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>
