<script lang="ts">
import type { Permission, PermissionStanding } from '@porch/core';

/** One permission as the strip shows it. */
export interface Chip {
  readonly permission: Permission;
  readonly label: string;
  readonly standing: PermissionStanding['name'] | 'forbidden' | 'impossible';
  readonly word: string;
  /** Why it is not possible with whom holds the consent. */
  readonly why?: string;
  /** What is undone the moment it is given back. */
  readonly undone: string;
  readonly canAsk: boolean;
}

/* Word, sign and shape say the state; colour only helps. */
const looks: Record<Chip['standing'], { readonly sign: string; readonly shape: string }> = {
  notAsked: { sign: '○', shape: 'open' },
  waiting: { sign: '◔', shape: 'waits' },
  allowed: { sign: '●', shape: 'on' },
  saidNo: { sign: '✕', shape: 'off' },
  lapsed: { sign: '–', shape: 'open' },
  takenBack: { sign: '↩', shape: 'off' },
  over: { sign: '–', shape: 'open' },
  forbidden: { sign: '⊘', shape: 'off' },
  impossible: { sign: '∅', shape: 'off' },
};
</script>

<script setup lang="ts">
import { NButton } from 'naive-ui';
import { w } from '../../words/index.ts';

defineProps<{ chip: Chip; isLive: boolean }>();
const emit = defineEmits<{ ask: []; giveBack: [] }>();
</script>

<template>
  <li
    class="chip"
    :class="looks[chip.standing].shape"
    :data-test="`chip-${chip.permission}`"
    :data-standing="chip.standing"
    :title="chip.why"
  >
    <span aria-hidden="true">{{ looks[chip.standing].sign }}</span>
    <span>{{ chip.label }}</span>
    <b class="tabular">{{ chip.word }}</b>
    <small v-if="chip.why" class="only-heard">{{ chip.why }}</small>
    <NButton
      v-if="isLive && chip.standing === 'allowed'"
      size="tiny"
      :aria-label="w.consent.giveBackOf({ what: chip.label })"
      :title="chip.undone"
      @click="emit('giveBack')"
      >{{ w.consent.giveBack }}</NButton
    >
    <NButton
      v-else-if="isLive && !['waiting', 'forbidden', 'impossible'].includes(chip.standing)"
      size="tiny"
      type="primary"
      :disabled="!chip.canAsk"
      :aria-label="w.consent.askOf({ what: chip.label })"
      @click="emit('ask')"
      >{{ w.consent.ask }}</NButton
    >
  </li>
</template>

<style scoped>
.chip {
  display: flex;
  align-items: center;
  gap: 0.3rem;
  padding: 0 0.15rem 0 0.5rem;
  border: 1px solid var(--quiet);
  border-radius: 8px;
  min-height: 26px;
  font-size: 0.88rem;
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
