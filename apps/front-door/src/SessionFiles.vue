<script setup lang="ts">
import { formatBytes, isEffective, presentOf, standingOf, takingPermissions } from '@porch/core';
import { computed, ref } from 'vue';
import { useI18n } from 'vue-i18n';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';

const { t } = useI18n();
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
    <h2 id="files">{{ t('files.title') }}</h2>
    <template v-if="taker">
      <label for="give">{{ t('files.give', { name: taker.name?.split(' ')[0] }) }}</label>
      <input id="give" ref="picker" type="file" multiple data-test="give-files" @change="give" />
    </template>
    <ul>
      <li v-for="file in files" :key="file.id">
        {{ file.name }}
        <span class="quiet"
          >({{ formatBytes(file.sizeBytes) }},
          {{ t(`files.${file.stage}`, { percent: Math.round((session.progress.value[file.id] ?? 0) * 100) }) }})</span
        >
        <button v-if="file.stage === 'offered' || file.stage === 'moving'" class="small" @click="cancel(file.id)">
          {{ t('files.cancel') }}
        </button>
      </li>
    </ul>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>
