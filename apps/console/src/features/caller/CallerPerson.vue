<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { CallerView } from '@porch/wire';
import { NButton, NTable } from 'naive-ui';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import type { StartFrom } from '../porch/use-starting.ts';
import { callerRows } from './caller-rows.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ person: CallerView }>();
const emit = defineEmits<{ start: [from: StartFrom] }>();
const { me } = useDesk();
const router = useRouter();
const now = useNow();
const where = computed(() => speech.value.list(props.person.knownFrom.map((from) => w.value.caller.knownFrom[from])));
const open = (path: string) => inBackground('opening a session', router.push(path));
const rows = computed(() => callerRows(props.person, me.value?.id, { start: (from) => emit('start', from), open }));
</script>

<template>
  <section class="card" :aria-label="person.name" data-test="caller">
    <h2>{{ person.name }}</h2>
    <p>
      <template v-if="person.address">{{ person.address }} · </template
      ><span class="quiet">{{ w.caller.about({ where }) }}</span>
    </p>
    <p v-if="!rows.length" class="quiet">{{ w.caller.nothing }}</p>
    <NTable v-else size="small" class="porch-rows">
      <thead class="heard">
        <tr>
          <th scope="col" class="kind">{{ w.caller.what }}</th>
          <th scope="col">{{ w.waiting.columns.about }}</th>
          <th scope="col" class="when">{{ w.waiting.columns.since }}</th>
          <th scope="col" class="acts">{{ w.waiting.columns.acts }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.key" data-row tabindex="-1" :aria-label="row.what">
          <td class="kind quiet">{{ row.kind }}</td>
          <td :title="row.what">{{ row.what }}</td>
          <td class="when tabular" :title="row.atMs ? exactly(row.atMs) : undefined">
            {{ row.atMs ? ago(row.atMs, now) : '' }}
          </td>
          <td class="acts">
            <NButton
              v-if="row.act"
              size="tiny"
              data-main
              :type="row.act.isMain ? 'primary' : 'default'"
              :aria-label="row.act.of"
              @click="row.act.go"
              >{{ row.act.label }}</NButton
            >
          </td>
        </tr>
      </tbody>
    </NTable>
  </section>
</template>

<style scoped>
.kind {
  width: 6rem;
}
.when {
  width: 8rem;
}
.acts {
  width: 6rem;
}
p {
  margin: 0 0 0.4rem;
}
</style>
