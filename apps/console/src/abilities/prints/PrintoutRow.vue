<script setup lang="ts">
import { safeFileName, type PrintoutHere } from '@porch/client';
import { NButton, NProgress } from 'naive-ui';
import { computed, onUnmounted, shallowRef, watch } from 'vue';
import { reasonInWords, speech, w } from '../../words/index.ts';

/* One document that was printed: on its way, here, or why it is not. */
const props = defineProps<{ printout: PrintoutHere }>();
defineEmits<{ fetch: [] }>();
const percent = computed(() => speech.value.percent(props.printout.share));
const fileName = computed(() => `${safeFileName(props.printout.title || w.value.ledger.erased)}.pdf`);
/** Where this page has it, for as long as the row stands. Never as anything but a PDF, whatever is in it. */
const address = shallowRef<string>();
const forget = () => {
  if (address.value) URL.revokeObjectURL(address.value);
  address.value = undefined;
};
watch(
  () => props.printout.bytes,
  (bytes) => {
    forget();
    if (bytes) address.value = URL.createObjectURL(new Blob([bytes.slice()], { type: 'application/pdf' }));
  },
  { immediate: true },
);
onUnmounted(forget);
const why = computed(() =>
  props.printout.trouble ? w.value.prints.trouble({ why: reasonInWords(props.printout.trouble) }) : undefined,
);
</script>

<template>
  <li data-test="printout">
    <b class="name">{{ printout.title }}</b>
    <span class="quiet">{{ speech.bytes(printout.sizeBytes) }}. </span>
    <span v-if="address" class="quiet">{{ w.prints.isHere }}</span>
    <span v-else-if="why" role="status">{{ why }}</span>
    <NProgress
      v-else-if="printout.trouble === undefined"
      color="var(--accent)"
      :percentage="Math.round(printout.share * 100)"
      :aria-label="w.prints.arriving({ percent })"
    />
    <span class="does">
      <template v-if="address">
        <a :href="address" :download="fileName" class="act" data-test="save-printout">{{ w.prints.save }}</a>
        <a :href="address" target="_blank" rel="noopener" class="act" data-test="open-printout">{{ w.prints.open }}</a>
      </template>
      <NButton v-else-if="printout.trouble !== undefined" size="tiny" @click="$emit('fetch')">{{
        w.prints.fetch
      }}</NButton>
    </span>
  </li>
</template>

<style scoped>
.name {
  display: block;
  overflow-wrap: anywhere;
}
.does {
  display: flex;
  gap: 0.6rem;
  margin-top: 0.2rem;
}
.act {
  padding: 0.15rem 0.3rem;
}
</style>
