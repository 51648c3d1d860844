<script setup lang="ts">
import type { DoorView } from '@porch/wire';
import { computed, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords, rest } from './door.ts';
import { BrowserShare } from './share/browser-share.ts';
import { speech, w } from './words/index.ts';

/* The ways to Doorstep: opened by its link, as a download that knows this session, or by hand. */
const props = defineProps<{ door: DoorView; session: CustomerSession }>();
const emit = defineEmits<{ trouble: [words: string] }>();
const isFetched = ref(false);
const doorstepUrl = computed(() => `zesty-porch:${props.door.doorstepLink}`);
const publisher = computed(() => {
  const { download } = props.door;
  return (
    download &&
    w.value.session.getPublisher({
      publisher: download.publisher,
      version: download.version,
      size: speech.value.bytes(download.sizeBytes),
    })
  );
});

async function attempt(work: () => Promise<unknown>): Promise<void> {
  emit('trouble', '');
  await work().catch((error: unknown) => emit('trouble', inWords(error)));
}
/** Each press makes a token of its own: it works once, and not for long. */
const get = () =>
  attempt(async () => {
    const { path } = await rest.doorDownload();
    props.session.tellStep('getting-doorstep');
    isFetched.value = true;
    location.assign(path);
  });
const copy = () => attempt(() => navigator.clipboard.writeText(`doorstep join --link ${props.door.doorstepLink}`));
</script>

<template>
  <section class="card" aria-labelledby="get">
    <h2 id="get">{{ w.session.open }}</h2>
    <p>
      {{ w.session.doorstep }}
      <template v-if="BrowserShare.isPossible">
        {{ w.session.withoutIt }}
      </template>
    </p>
    <template v-if="publisher">
      <p>
        <button class="first" data-test="get-doorstep" @click="get">{{ w.session.get }}</button>
      </p>
      <p class="quiet">{{ publisher }}</p>
      <p v-if="isFetched" role="status">{{ w.session.getHow }}</p>
    </template>
    <p class="quiet">{{ w.session.byHand }}</p>
    <p>
      <a class="button" :class="{ first: !publisher }" :href="doorstepUrl">{{ w.session.open }}</a>
      <button class="small" @click="copy">{{ w.session.copy }}</button>
    </p>
  </section>
</template>
