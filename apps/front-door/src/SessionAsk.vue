<script setup lang="ts">
import { firstName, customersAct, showingPermissions, type OpenAsk } from '@porch/core';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { BrowserShare } from './share/browser-share.ts';
import { PageCamera } from './share/page-camera.ts';
import { ledger, speech, w } from './words/index.ts';

const props = defineProps<{ session: CustomerSession; ask: OpenAsk }>();
const emit = defineEmits<{ trouble: [why: string] }>();

/** Nobody answers what they have not seen: a press in the first second was meant for something else. */
const READ_MS = 1_000;
const isRead = ref(false);
let timer: ReturnType<typeof setTimeout> | undefined;
onMounted(() => (timer = setTimeout(() => (isRead.value = true), READ_MS)));
onUnmounted(() => clearTimeout(timer));

const state = computed(() => props.session.state.value);
const first = computed(() =>
  firstName(state.value.participants[props.ask.participantId]?.name ?? w.value.session.technician),
);
const wanted = computed(() =>
  speech.value.list(props.ask.permissions.map((permission) => customersAct(permission, ledger.value))),
);
const { showing } = props.session.share;
/** Whether something has to be chosen: pointing needs no picture of its own. */
const needsPicture = computed(() =>
  props.ask.permissions.some((permission) => showingPermissions.includes(permission)),
);

const asksCamera = computed(() => props.ask.permissions.includes('see-camera'));
const canOpenCamera = PageCamera.isPossible;

async function attempt(work: () => Promise<unknown>): Promise<void> {
  emit('trouble', '');
  await work().catch((error: unknown) => emit('trouble', inWords(error)));
}
const refuse = () =>
  attempt(() => props.session.connection.command({ type: 'refuseAsk', askId: props.ask.id, fact: undefined }));
/** A telephone shows the thing itself; nobody under age is asked for a camera. */
const canUseCamera = computed(() => BrowserShare.hasCamera && !state.value.isMinor);
const allow = (what: 'screen' | 'camera') => attempt(() => props.session.share.allow(props.ask, what));
</script>

<template>
  <section class="card asks" role="status" data-test="ask">
    <template v-if="session.isDoorstepThere.value">
      <h2>{{ w.ask.look }}</h2>
      <p>{{ w.ask.there({ name: first, what: wanted }) }}</p>
      <button @click="refuse">{{ w.ask.no }}</button>
    </template>
    <template v-else>
      <h2>{{ w.ask.may({ name: first, what: wanted }) }}</h2>
      <p v-if="showing && needsPicture">{{ w.ask.already({ what: showing }) }}</p>
      <p v-else-if="needsPicture">
        {{ w.ask.choose({ name: first }) }}
      </p>
      <p v-if="ask.permissions.includes('speak-together')">{{ w.speaking.ask({ name: first }) }}</p>
      <p v-if="asksCamera">{{ canOpenCamera ? w.camera.ask({ name: first }) : w.camera.cannot }}</p>
      <div class="pair">
        <button
          v-if="(showing || !needsPicture || BrowserShare.isPossible) && (canOpenCamera || !asksCamera)"
          data-test="allow"
          :disabled="!isRead"
          @click="allow('screen')"
        >
          {{ showing || !needsPicture ? w.ask.yes : w.ask.yesChoose }}
        </button>
        <button
          v-if="!showing && needsPicture && canUseCamera"
          data-test="allow-camera"
          :disabled="!isRead"
          @click="allow('camera')"
        >
          {{ w.ask.camera }}
        </button>
        <button :disabled="!isRead" @click="refuse">{{ w.ask.no }}</button>
      </div>
    </template>
  </section>
</template>
