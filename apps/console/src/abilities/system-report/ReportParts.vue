<script setup lang="ts">
import { rowsOfPart } from '@porch/client';
import { reportPartNames, type SystemReport } from '@porch/core';
import { computed } from 'vue';
import { speech, w } from '../../words/index.ts';

/* Every part of a report that has come, or why it has not. */
const props = defineProps<{ parts: SystemReport['parts']; missing: SystemReport['missing'] }>();
const sections = computed(() =>
  reportPartNames.flatMap((name) => {
    const rows = rowsOfPart(name, props.parts, w.value.systemReport, speech.value);
    const why = props.missing[name];
    return rows.length || why ? [{ name, rows, why }] : [];
  }),
);
</script>

<template>
  <template v-for="{ name, rows, why } in sections" :key="name">
    <h3>{{ w.systemReport.parts[name] }}</h3>
    <p v-if="why" class="quiet">{{ w.systemReport.missing[why] }}</p>
    <dl v-else>
      <template v-for="([, label, value], i) in rows" :key="i">
        <dt>{{ label }}</dt>
        <dd>{{ value }}</dd>
      </template>
    </dl>
  </template>
</template>

<style scoped>
h3 {
  font-size: 0.95rem;
  margin: 0.7rem 0 0.2rem;
}
p {
  margin: 0.2rem 0;
}
dl {
  margin: 0;
  display: grid;
  grid-template-columns: minmax(5.5rem, auto) minmax(0, 1fr);
  gap: 0.1rem 0.6rem;
  font-size: 0.9rem;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
