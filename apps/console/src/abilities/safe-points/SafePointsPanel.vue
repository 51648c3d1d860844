<script setup lang="ts">
import { inBackground, pointInWords, type RightsNeeded } from '@porch/client';
import { MAX_POINT_PATHS, rightsBackInWords, type SafePoint } from '@porch/core';
import { MAX_KEPT_DAYS } from '@porch/wire';
import { NButton, NCheckbox, NInput, NInputNumber } from 'naive-ui';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { speech, w } from '../../words/index.ts';
import { exactly } from '../../times.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { safePointsTool } from './tool.ts';
import { usePoints } from './use-points.ts';

/* What their computer was like before: saved, compared, gone back to. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician } = props.session.tool(safePointsTool);
const { points, isBusy, said, trouble, progress, look, make, compare, rightsFor, goBack, keep, drop } =
  usePoints(technician);
const name = ref('');
const paths = ref('');
const services = ref('');
const hasPackages = ref(false);
const days = ref(7);
/** Which one is about to be gone back to. */
const sure = ref('');
/** What of that only an administrator may. */
const needs = shallowRef<RightsNeeded>();
const needsInWords = computed(() => (needs.value ? rightsBackInWords(needs.value.back) : []));
const linesOf = (text: string) => text.split('\n').flatMap((line) => line.trim() || []);
const canMake = computed(
  () =>
    name.value.trim() !== '' &&
    linesOf(paths.value).length <= MAX_POINT_PATHS &&
    (linesOf(paths.value).length > 0 || linesOf(services.value).length > 0 || hasPackages.value),
);
onMounted(() => inBackground('looking for safe points', look()));

async function makeOne(): Promise<void> {
  const touches = { paths: linesOf(paths.value), services: linesOf(services.value), hasPackages: hasPackages.value };
  if (await make(name.value.trim(), touches)) name.value = '';
}
async function prepare(point: SafePoint): Promise<void> {
  // Where that cannot be said the rest goes back all the same.
  needs.value = await rightsFor(point);
  sure.value = point.id;
}
async function goBackTo(point: SafePoint): Promise<void> {
  sure.value = '';
  await goBack(point, needs.value?.isRaised ? needs.value.back : undefined);
}
</script>

<template>
  <section class="points" :aria-label="w.safePoints.title" data-test="safe-points">
    <h1>{{ w.safePoints.title }}</h1>
    <p class="quiet">{{ w.safePoints.about }}</p>
    <form @submit.prevent="makeOne">
      <label
        >{{ w.safePoints.name }}
        <NInput v-model:value="name" size="small" placeholder="" :maxlength="80" data-test="point-name" />
      </label>
      <label
        >{{ w.safePoints.paths }}
        <NInput
          v-model:value="paths"
          type="textarea"
          size="small"
          :autosize="{ minRows: 2, maxRows: 6 }"
          :placeholder="w.safePoints.pathsHint"
          data-test="point-paths"
        />
      </label>
      <label
        >{{ w.safePoints.services }}
        <NInput
          v-model:value="services"
          type="textarea"
          size="small"
          :autosize="{ minRows: 2, maxRows: 6 }"
          :placeholder="w.safePoints.servicesHint"
          data-test="point-services"
        />
      </label>
      <NCheckbox v-model:checked="hasPackages" data-test="point-packages">{{ w.safePoints.packages }}</NCheckbox>
      <p v-if="hasPackages || services.includes('computer/')" class="quiet" data-test="point-rights-first">
        {{ w.safePoints.rightsFirst }}
      </p>
      <NButton size="small" attr-type="submit" :disabled="isBusy || !canMake" data-test="make-point">{{
        w.safePoints.make
      }}</NButton>
    </form>
    <p role="status" class="quiet">{{ progress }}</p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <ul v-if="said.length" class="said" data-test="point-said">
      <li v-for="line in said" :key="line">{{ line }}</li>
    </ul>
    <h2>{{ w.safePoints.list }}</h2>
    <p v-if="!points.length" class="quiet">{{ w.safePoints.none }}</p>
    <article v-for="point in points" :key="point.id" class="card" data-test="safe-point">
      <h3>{{ point.name }}</h3>
      <p class="quiet">
        {{ exactly(point.madeAtMs) }}<template v-if="!point.isOfThisSession"> · {{ w.safePoints.earlier }}</template>
      </p>
      <p>{{ pointInWords(point, w.safePoints, speech) }}</p>
      <div v-if="sure === point.id" role="group" :aria-label="w.safePoints.goBack">
        <p>
          <b>{{ w.safePoints.sure({ computer: session.theirComputer.value, name: point.name }) }}</b>
        </p>
        <template v-if="needsInWords.length">
          <p>{{ needs?.isRaised ? w.safePoints.byRights : w.safePoints.needsRights }}</p>
          <ul class="said" data-test="point-rights">
            <li v-for="line in needsInWords" :key="line">{{ line }}</li>
          </ul>
        </template>
        <p class="acts">
          <NButton size="small" @click="sure = ''">{{ w.safePoints.leaveIt }}</NButton>
          <NButton size="small" data-test="go-back-now" @click="goBackTo(point)">{{ w.safePoints.doIt }}</NButton>
        </p>
      </div>
      <p v-else class="acts">
        <NButton size="small" :disabled="isBusy" data-test="compare-point" @click="compare(point)">{{
          w.safePoints.compare
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="go-back" @click="prepare(point)">{{
          w.safePoints.goBack
        }}</NButton>
        <template v-if="point.keptUntilMs === undefined">
          <NInputNumber
            v-model:value="days"
            class="days"
            size="small"
            :min="1"
            :max="MAX_KEPT_DAYS"
            :show-button="false"
            :input-props="{ 'aria-label': w.safePoints.daysToKeep }"
          />
          <NButton size="small" :disabled="isBusy" data-test="keep-point" @click="keep(point, days)">{{
            w.safePoints.keep
          }}</NButton>
        </template>
        <NButton size="small" :disabled="isBusy" data-test="drop-point" @click="drop(point)">{{
          w.safePoints.drop
        }}</NButton>
      </p>
    </article>
  </section>
</template>

<style scoped>
.points {
  padding: 0.6rem;
  overflow-wrap: anywhere;
}
h1 {
  font-size: 1.1rem;
}
h2,
h3 {
  font-size: 1rem;
}
p,
h3 {
  margin: 0.2rem 0;
}
form,
label {
  display: grid;
  gap: 0.3rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
.days {
  width: 3.5rem;
}
.said {
  margin: 0.3rem 0;
  padding-inline-start: 1.1rem;
}
</style>
