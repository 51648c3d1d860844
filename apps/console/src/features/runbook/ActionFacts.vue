<script setup lang="ts">
import { allPermissions, techniciansAct, type Permission, type RunbookAction } from '@porch/core';
import { computed } from 'vue';
import { ledger, w } from '../../words/index.ts';

/* Everything of an action that somebody reads before they say that it is right. */
const props = defineProps<{ action: RunbookAction; hash: string }>();
const isKnown = (one: string): one is Permission => (allPermissions as readonly string[]).includes(one);
const permissionInWords = (one: string) => (isKnown(one) ? techniciansAct(one, ledger.value) : one);
const facts = computed(() => {
  const { runbook } = w.value;
  const { interpreter, target, expectedSeconds, limitSeconds, touches, undo, needs, kind, isRisky, rights } =
    props.action;
  const touched = [...touches.paths, ...touches.services];
  const isRun = kind === 'script';
  const rows: readonly (readonly [string, string | undefined])[] = [
    [runbook.reads, interpreter],
    [runbook.goes, target],
    [runbook.needs, needs.map(permissionInWords).join(', ')],
    [runbook.rights, rights === 'administrator' ? runbook.yes : ''],
    [runbook.isRisky, isRisky ? runbook.yes : ''],
    [runbook.expects, runbook.seconds({ count: expectedSeconds })],
    [runbook.limit, isRun ? runbook.seconds({ count: limitSeconds }) : ''],
    [runbook.touches, touched.join(', ')],
    [runbook.undo, undo],
    [runbook.hash, props.hash],
  ];
  return rows.filter(([, value]) => value);
});
</script>

<template>
  <p v-if="action.about">{{ action.about }}</p>
  <dl class="facts">
    <template v-for="[name, value] in facts" :key="name">
      <dt>{{ name }}</dt>
      <dd>{{ value }}</dd>
    </template>
  </dl>
  <template v-if="action.parameters.length">
    <h2>{{ w.runbook.values }}</h2>
    <ul>
      <li v-for="one in action.parameters" :key="one.name">
        <code>{{ one.name }}</code> {{ one.label }} ({{ w.runbook.valueKinds[one.kind]
        }}<template v-if="one.choices">: {{ one.choices.join(' · ') }}</template
        >)
      </li>
    </ul>
  </template>
  <h2>{{ w.runbook.runs }}</h2>
  <pre class="card" tabindex="0" role="region" :aria-label="w.runbook.runs" data-test="action-body">{{
    action.body
  }}</pre>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: minmax(7rem, auto) minmax(0, 1fr);
  gap: 0.1rem 0.8rem;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
pre {
  overflow: auto;
  max-height: 30rem;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 1rem;
}
</style>
