<script setup lang="ts">
import {
  consentHolderOf,
  allPermissions,
  permissionLabel,
  rulesOf,
  standingOf,
  techniciansAct,
  whatIsUndone,
  whyNotWith,
  type Permission,
  type PermissionStanding,
} from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import PictureNow from '../../abilities/picture/PictureNow.vue';
import { pictureTool } from '../../abilities/picture/tool.ts';
import { consoleAbilities } from '../../abilities/index.ts';
import { countDown, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import SessionConsentChip, { type Chip } from './SessionConsentChip.vue';
import type { TechnicianSession } from './technician-session.ts';
import { ledger, speech, w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const emit = defineEmits<{ ask: [...permissions: Permission[]]; giveBack: [permission: Permission] }>();
const now = useNow();
const { porch } = usePorch();
const isMoreOpen = ref(false);

function wordFor(standing: PermissionStanding): string {
  switch (standing.name) {
    case 'waiting':
      return w.value.consent.waiting({ time: countDown(standing.expiresAtMs - now.value) });
    default:
      return w.value.consent[standing.name];
  }
}
const isPlanned = (permission: Permission) => props.session.state.value.planned.includes(permission);

const holder = computed(() => consentHolderOf(props.session.state.value));
const isForbidden = (permission: Permission) => porch.value?.mayNotAsk.includes(permission) ?? false;

const chips = computed(() =>
  allPermissions.map((permission): Chip => {
    const standing = standingOf(props.session.state.value, props.session.connection.participantId, permission);
    const label = permissionLabel(permission, ledger.value);
    const undone = whatIsUndone(permission, ledger.value);
    const word = standing.name === 'notAsked' && isPlanned(permission) ? w.value.consent.planned : wordFor(standing);
    const chip = { permission, label, undone, standing: standing.name, word, canAsk: false };
    if (standing.name === 'allowed' || standing.name === 'waiting') return chip;
    if (isForbidden(permission)) return { ...chip, standing: 'forbidden', word: w.value.consent.forbidden };
    const whyNot = holder.value && whyNotWith(holder.value, permission);
    if (whyNot)
      return { ...chip, standing: 'impossible', word: w.value.consent.impossible, why: w.value.consent.whyNot[whyNot] };
    return { ...chip, canAsk: props.session.isHolderThere.value && props.session.isLead.value };
  }),
);
/** What abilities have to say of it besides. */
const notes = computed(() => consoleAbilities.flatMap(({ stripNote }) => stripNote?.(props.session) ?? []));
/** What abilities switch by one press. */
const switches = computed(() =>
  consoleAbilities.flatMap(({ name, strip }) =>
    strip?.isShown(props.session) ? [{ name, button: strip.button }] : [],
  ),
);
const { hasPicture } = props.session.tool(pictureTool);
/** Looking, working and files are always in sight, and so is whatever anybody has been asked. */
const isInSight = (chip: Chip) =>
  (rulesOf(chip.permission).isUsual ?? isPlanned(chip.permission)) ||
  !['notAsked', 'forbidden', 'impossible'].includes(chip.standing);
const inSight = computed(() => chips.value.filter(isInSight));
const more = computed(() => chips.value.filter((chip) => !isInSight(chip)));
/** What cannot be asked is told by its reason, all together: what can be stays easy to find. */
const reasons = computed(() => {
  const byReason = new Map<string, Chip[]>();
  for (const chip of more.value.filter((c) => c.standing === 'impossible' || c.standing === 'forbidden'))
    byReason.set(chip.why ?? '', [...(byReason.get(chip.why ?? '') ?? []), chip]);
  return [...byReason].map(([why, those]) => {
    const what = speech.value.list(those.map(({ permission }) => techniciansAct(permission, ledger.value)));
    const { consent } = w.value;
    return why ? consent.impossibleBecause({ why, what }) : consent.forbids({ what });
  });
});
const askable = computed(() => more.value.filter((c) => c.standing !== 'impossible' && c.standing !== 'forbidden'));
/** What of each bundle is neither allowed nor asked already; one of a single permission is its chip's own button. */
const bundles = computed(() =>
  (porch.value?.bundles ?? [])
    .map(({ name, own, permissions }) => ({
      name,
      label: own ? w.value.consent.bundles[own] : name,
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
    <ul :aria-label="w.consent.mayNow">
      <SessionConsentChip
        v-for="chip in inSight"
        :key="chip.permission"
        :chip="chip"
        :is-live="isLive"
        @ask="emit('ask', chip.permission)"
        @give-back="emit('giveBack', chip.permission)"
      />
      <li v-if="isLive && session.isFromBrowser" class="note" data-test="from-browser">
        {{ w.consent.fromBrowser }}
      </li>
      <li v-for="note in notes" :key="note" class="note">
        <span role="status" data-test="strip-note">{{ note }}</span>
      </li>
      <li v-if="session.plannedTrouble.value" class="note">
        <span role="status">{{ session.plannedTrouble.value }}</span>
      </li>
      <li v-for="item in isLive ? switches : []" :key="item.name" class="bundle">
        <component :is="item.button" :session="session" />
      </li>
      <li v-for="bundle in isLive ? bundles : []" :key="bundle.name" class="bundle">
        <NButton
          size="tiny"
          :data-test="`bundle-${bundle.name}`"
          @click="emit('ask', ...bundle.missing.map((c) => c.permission))"
          >{{ w.consent.askOf({ what: bundle.label }) }}</NButton
        >
      </li>
      <li v-if="isLive && more.length" class="bundle">
        <NButton size="tiny" :aria-expanded="isMoreOpen" data-test="more" @click="isMoreOpen = !isMoreOpen">{{
          isMoreOpen ? w.consent.less : askable.length ? w.consent.moreCount({ count: askable.length }) : w.consent.more
        }}</NButton>
      </li>
      <li v-if="hasPicture" class="now"><PictureNow :session="session" /></li>
    </ul>
    <ul v-if="isLive && isMoreOpen" class="more" :aria-label="w.consent.whatElse">
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
          <summary>{{ w.consent.whyNotTitle }}</summary>
          <p v-for="sentence in reasons" :key="sentence">
            {{ sentence }}
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
  align-items: center;
  gap: 0.2rem 0.3rem;
  margin: 0;
  padding: 0.2rem 0.4rem;
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
.now {
  margin-left: auto;
}
</style>
