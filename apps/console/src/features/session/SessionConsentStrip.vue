<script setup lang="ts">
import {
  consentHolderOf,
  allPermissions,
  rulesOf,
  standingOf,
  whyNotWith,
  whyNotWords,
  type Permission,
  type PermissionStanding,
} from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { countDown, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import SessionConsentChip, { type Chip } from './SessionConsentChip.vue';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession }>();
const emit = defineEmits<{ ask: [...permissions: Permission[]]; giveBack: [permission: Permission] }>();
const now = useNow();
const { porch } = usePorch();
const isMoreOpen = ref(false);

function wordFor(standing: PermissionStanding): string {
  switch (standing.name) {
    case 'waiting':
      return `waiting ${countDown(standing.expiresAtMs - now.value)}`;
    case 'allowed':
      return 'allowed';
    case 'saidNo':
      return 'said no';
    case 'takenBack':
      return 'taken back';
    case 'over':
      return 'over';
    case 'lapsed':
      return 'no answer';
    case 'notAsked':
      return 'not asked';
  }
}

const holder = computed(() => consentHolderOf(props.session.state.value));
const isForbidden = (permission: Permission) => porch.value?.mayNotAsk.includes(permission) ?? false;

const chips = computed(() =>
  allPermissions.map((permission): Chip => {
    const standing = standingOf(props.session.state.value, props.session.connection.participantId, permission);
    const { label, undone } = rulesOf(permission);
    const chip = { permission, label, undone, standing: standing.name, word: wordFor(standing), canAsk: false };
    if (standing.name === 'allowed' || standing.name === 'waiting') return chip;
    if (isForbidden(permission)) return { ...chip, standing: 'forbidden', word: 'the desk forbids' };
    const whyNot = holder.value && whyNotWith(holder.value, permission);
    if (whyNot) return { ...chip, standing: 'impossible', word: 'not possible here', why: whyNotWords[whyNot] };
    return { ...chip, canAsk: props.session.isHolderThere.value && props.session.isLead.value };
  }),
);
/** Looking, working and files are always in sight, and so is whatever anybody has been asked. */
const isInSight = (chip: Chip) =>
  rulesOf(chip.permission).isUsual ?? !['notAsked', 'forbidden', 'impossible'].includes(chip.standing);
const inSight = computed(() => chips.value.filter(isInSight));
const more = computed(() => chips.value.filter((chip) => !isInSight(chip)));
/** What cannot be asked is told by its reason, all together: what can be stays easy to find. */
const reasons = computed(() => {
  const byReason = new Map<string, Chip[]>();
  for (const chip of more.value.filter((c) => c.standing === 'impossible' || c.standing === 'forbidden')) {
    const reason = chip.standing === 'forbidden' ? 'The desk forbids' : `Not possible here (${chip.why ?? ''})`;
    byReason.set(reason, [...(byReason.get(reason) ?? []), chip]);
  }
  return [...byReason];
});
const askable = computed(() => more.value.filter((c) => c.standing !== 'impossible' && c.standing !== 'forbidden'));
/** What of each bundle is neither allowed nor asked already; one of a single permission is its chip's own button. */
const bundles = computed(() =>
  (porch.value?.bundles ?? [])
    .map(({ name, permissions }) => ({
      name,
      missing: chips.value.filter(
        (c) => permissions.includes(c.permission) && c.standing !== 'allowed' && c.standing !== 'waiting',
      ),
    }))
    .filter(({ missing }) => missing.length > 1 && missing.every((c) => c.canAsk)),
);
const isLive = computed(() => props.session.state.value.phase.name === 'live');
</script>

<template>
  <div class="strip">
    <ul aria-label="What you may do now">
      <SessionConsentChip
        v-for="chip in inSight"
        :key="chip.permission"
        :chip="chip"
        :is-live="isLive"
        @ask="emit('ask', chip.permission)"
        @give-back="emit('giveBack', chip.permission)"
      />
      <li v-if="isLive && session.isFromBrowser" class="note" data-test="from-browser">
        They show from their browser: for more than looking, ask them to open Doorstep.
      </li>
      <li v-for="bundle in isLive ? bundles : []" :key="bundle.name" class="bundle">
        <NButton
          size="tiny"
          :data-test="`bundle-${bundle.name}`"
          @click="emit('ask', ...bundle.missing.map((c) => c.permission))"
          >Ask: {{ bundle.name.toLowerCase() }}</NButton
        >
      </li>
      <li v-if="isLive && more.length" class="bundle">
        <NButton size="tiny" :aria-expanded="isMoreOpen" data-test="more" @click="isMoreOpen = !isMoreOpen">{{
          isMoreOpen ? 'Less' : askable.length ? `More (${askable.length})` : 'More'
        }}</NButton>
      </li>
    </ul>
    <ul v-if="isLive && isMoreOpen" class="more" aria-label="What else there is to ask for">
      <SessionConsentChip
        v-for="chip in askable"
        :key="chip.permission"
        :chip="chip"
        is-live
        @ask="emit('ask', chip.permission)"
        @give-back="emit('giveBack', chip.permission)"
      />
      <li v-if="reasons.length" class="reason">
        <details data-test="why-not">
          <summary>Not possible here, and why</summary>
          <p v-for="[reason, those] in reasons" :key="reason">
            {{ reason }}:
            <span v-for="(chip, i) in those" :key="chip.permission" :data-test="`chip-${chip.permission}`"
              >{{ chip.label.toLowerCase() }}{{ i < those.length - 1 ? ', ' : '' }}</span
            >
          </p>
        </details>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.strip {
  background: var(--card);
  border-bottom: 1px solid var(--line);
}
ul {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin: 0;
  padding: 0.4rem 0.6rem;
  list-style: none;
}
.more {
  max-height: 12rem;
  overflow: auto;
  border-top: 1px dashed var(--line);
}
.note {
  align-self: center;
  font-size: 0.9rem;
}
.reason {
  flex-basis: 100%;
  font-size: 0.9rem;
}
.bundle {
  align-self: center;
}
</style>
