<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { RunbookActionView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { onMounted, ref, shallowRef, watch } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import ActionInstruction from './ActionInstruction.vue';
import ActionRun from './ActionRun.vue';
import { runbookTool } from './tool.ts';

/* Actions that the desk prepared: found, looked at, run, ticked off. */
const MOST = 30;
const props = defineProps<{ session: ConsoleSession }>();
const { inHand, put } = props.session.tool(runbookTool);
const words = ref('');
const items = shallowRef<readonly RunbookActionView[]>();
const { trouble, isBusy, attempt } = useAttempt();

let asked = 0;
const find = (text = words.value) =>
  attempt(async () => {
    const mine = ++asked;
    const wanted = text.trim() ? { words: text } : {};
    const page = await props.session.rest.runbookActions({ state: 'approved', limit: MOST, ...wanted });
    // An answer that comes after a newer question is thrown away.
    if (mine === asked) items.value = page.items;
  });
onMounted(find);
watch(words, () => inBackground('looking in the runbook', find()));
const choose = ({ id }: RunbookActionView) =>
  attempt(async () => {
    const { action } = await props.session.rest.runbookAction(id);
    put({ id, action, values: {} });
  });
/** The action that takes this one back, with the same values where it asks for the same. */
const takeBack = (name: string, values: Readonly<Record<string, string>>) =>
  attempt(async () => {
    const [found] = (await props.session.rest.runbookActions({ name, state: 'approved' })).items;
    if (!found) return;
    const { action } = await props.session.rest.runbookAction(found.id);
    const same = action.parameters.filter((one) => one.name in values).map((one) => [one.name, values[one.name] ?? '']);
    put({ id: found.id, action, values: Object.fromEntries(same) });
  });
</script>

<template>
  <section class="drawer-panel" :aria-label="w.runbook.title" data-test="runbook">
    <h1>{{ w.runbook.title }}</h1>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <template v-if="inHand">
      <p class="acts">
        <NButton size="small" data-test="all-actions" @click="put()">{{ w.runbook.back }}</NButton>
        <RouterLink :to="`/runbook/${inHand.id}`">{{ w.runbook.readAll }}</RouterLink>
      </p>
      <ActionInstruction v-if="inHand.action.kind === 'instruction'" :key="inHand.id" :session="session" />
      <ActionRun v-else :key="`run ${inHand.id}`" :session="session" @take-back="takeBack" />
    </template>
    <template v-else>
      <NInput
        v-model:value="words"
        size="small"
        clearable
        :placeholder="w.runbook.find"
        :input-props="{ 'aria-label': w.runbook.find, maxlength: 200 }"
        data-test="find-action"
      />
      <p v-if="!items && isBusy" role="status" class="quiet">{{ w.runbook.looking }}</p>
      <p v-else-if="items && !items.length" role="status" class="quiet">
        {{ words.trim() ? w.runbook.noneFits : w.runbook.none }}
      </p>
      <ul v-else-if="items" class="rows">
        <li v-for="one in items" :key="one.id">
          <button type="button" class="one" :data-test="`action-${one.name}`" @click="choose(one)">
            <b>{{ one.title }}</b>
            <span class="quiet">
              {{ w.runbook.kinds[one.kind] }}<template v-if="one.isRisky"> · {{ w.runbook.risky }}</template
              ><template v-if="one.needsAdministrator"> · {{ w.runbook.needsAdministrator }}</template>
            </span>
            <span v-if="one.about">{{ one.about }}</span>
          </button>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.8rem;
  align-items: center;
}
.rows {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.3rem;
}
.one {
  display: grid;
  gap: 0.1rem;
  width: 100%;
  text-align: left;
  padding: 0.4rem 0.6rem;
  font: inherit;
  color: inherit;
  background: var(--card);
  border: 1px solid var(--line);
  cursor: pointer;
}
</style>
