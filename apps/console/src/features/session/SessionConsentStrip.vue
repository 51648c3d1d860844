<script setup lang="ts">
import { allPermissions, permissionCatalogue, standingOf, type Permission, type PermissionStanding } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import { countDown, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession }>();
const emit = defineEmits<{ ask: [...permissions: Permission[]]; giveBack: [permission: Permission] }>();
const now = useNow();
const { porch } = usePorch();

/* Word, sign and shape say the state; colour only helps. */
const signs: Record<PermissionStanding['name'], string> = {
  notAsked: '○',
  waiting: '◔',
  allowed: '●',
  saidNo: '✕',
  lapsed: '–',
  takenBack: '↩',
};
const shapes: Record<PermissionStanding['name'], string> = {
  notAsked: 'open',
  waiting: 'waits',
  allowed: 'on',
  saidNo: 'off',
  lapsed: 'open',
  takenBack: 'off',
};

const chips = computed(() =>
  allPermissions.map((permission) => {
    const standing = standingOf(props.session.state.value, props.session.connection.participantId, permission);
    const words: Record<PermissionStanding['name'], string> = {
      notAsked: 'not asked',
      waiting: standing.name === 'waiting' ? `waiting ${countDown(standing.expiresAtMs - now.value)}` : '',
      allowed: 'allowed',
      saidNo: 'said no',
      lapsed: 'no answer',
      takenBack: 'taken back',
    };
    return {
      permission,
      label: permissionCatalogue[permission].label,
      standing: standing.name,
      word: words[standing.name],
      sign: signs[standing.name],
      shape: shapes[standing.name],
    };
  }),
);
const mayAsk = (permission: Permission) =>
  props.session.isHolderThere.value && (permissionCatalogue[permission].worksInBrowser || !props.session.isFromBrowser);
/** What of each bundle is neither allowed nor asked already; one of a single permission is its chip's own button. */
const bundles = computed(() =>
  (porch.value?.bundles ?? [])
    .map(({ name, permissions }) => ({
      name,
      missing: permissions.filter((p) => {
        const chip = chips.value.find((c) => c.permission === p);
        return chip?.standing !== 'allowed' && chip?.standing !== 'waiting';
      }),
    }))
    .filter(({ missing }) => missing.length > 1 && missing.every(mayAsk)),
);
const isLive = computed(() => props.session.state.value.phase.name === 'live');
</script>

<template>
  <ul class="strip" aria-label="What you may do now">
    <li
      v-for="chip in chips"
      :key="chip.permission"
      class="chip"
      :class="chip.shape"
      :data-test="`chip-${chip.permission}`"
      :data-standing="chip.standing"
    >
      <span aria-hidden="true">{{ chip.sign }}</span>
      <span>{{ chip.label }}</span>
      <b class="tabular">{{ chip.word }}</b>
      <NButton
        v-if="isLive && chip.standing === 'allowed'"
        size="tiny"
        :aria-label="`Give back: ${chip.label}`"
        @click="emit('giveBack', chip.permission)"
        >Give back</NButton
      >
      <NButton
        v-else-if="isLive && chip.standing !== 'waiting'"
        size="tiny"
        type="primary"
        :disabled="!mayAsk(chip.permission)"
        :aria-label="`Ask: ${chip.label}`"
        @click="emit('ask', chip.permission)"
        >Ask</NButton
      >
    </li>
    <li v-if="isLive && session.isFromBrowser" class="note" data-test="from-browser">
      They show from their browser: for more than looking, ask them to open Doorstep.
    </li>
    <li v-for="bundle in isLive ? bundles : []" :key="bundle.name" class="chip open">
      <NButton size="tiny" :data-test="`bundle-${bundle.name}`" @click="emit('ask', ...bundle.missing)"
        >Ask: {{ bundle.name.toLowerCase() }}</NButton
      >
    </li>
  </ul>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin: 0;
  padding: 0.4rem 0.6rem;
  list-style: none;
  background: var(--card);
  border-bottom: 1px solid var(--line);
}
.chip {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  padding: 0.15rem 0.6rem;
  border: 1px solid var(--quiet);
  border-radius: 8px;
  font-size: 0.9rem;
}
.note {
  align-self: center;
  font-size: 0.9rem;
}
.chip.on {
  border: 2px solid var(--accent);
  border-radius: 999px;
}
.chip.waits {
  border: 2px dashed var(--amber);
  background: var(--amber-ground);
}
.chip.off {
  border-style: dotted;
}
</style>
