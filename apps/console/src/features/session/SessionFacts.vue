<script setup lang="ts">
import { clockSince, inBackground } from '@porch/client';
import { areWordsSame } from '@porch/core';
import { computed, onMounted, ref } from 'vue';
import { checkWordsTool } from '../../abilities/check-words/tool.ts';
import { useDesk } from '../../desk.ts';
import { useNow } from '../../times.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

/* What a technician wants to know at any moment: whose computer, how long already, and whether the words were compared. */
const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const now = useNow();
const { words } = props.session.tool(checkWordsTool);
const state = computed(() => props.session.state.value);
const { computer } = props.session;
const beganAtMs = computed(() => {
  void props.session.told.value;
  return props.session.connection.entries.find(({ event }) => event.type === 'customerAccepted')?.atMs;
});
const since = computed(() =>
  beganAtMs.value === undefined || state.value.phase.name !== 'live' ? '' : clockSince(now.value - beganAtMs.value),
);
/** For when the call drops; without it nothing is shown, and nothing is missing. */
const telephone = ref('');
onMounted(() =>
  inBackground(
    'reading where they can be called',
    rest
      .sessionTelephone(props.session.id)
      .then((found) => (telephone.value = found.telephone ?? ''))
      .catch(() => undefined),
  ),
);
const areSame = computed(() => areWordsSame(state.value, props.session.connection.participantId));
</script>

<template>
  <span v-if="computer" class="fact" data-test="computer" :title="w.session.computer">{{ computer }}</span>
  <span v-if="since" class="fact tabular" role="timer" :aria-label="w.session.since" :title="w.session.since">{{
    since
  }}</span>
  <a
    v-if="telephone"
    class="fact tabular"
    :href="`tel:${telephone.replace(/[^+\d]/g, '')}`"
    :title="w.session.dropped({ number: telephone })"
    :aria-label="w.session.dropped({ number: telephone })"
    data-test="telephone"
    >☎ {{ telephone }}</a
  >
  <span
    v-if="words.length"
    class="fact compared"
    :title="`${areSame ? w.session.compared : w.session.notCompared}: ${words.join(' · ')}`"
    data-test="compared"
    >{{ areSame ? w.session.compared : w.session.notCompared }}</span
  >
</template>

<style scoped>
.fact {
  white-space: nowrap;
  font-size: 0.88rem;
}
/* The longest gives way first; its title says it whole. */
.compared {
  flex: 0 1 auto;
  min-width: 3rem;
  overflow: hidden;
  text-overflow: ellipsis;
}
a.fact {
  color: inherit;
}
</style>
